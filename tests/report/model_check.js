// expects: drawn hover picks released list parts several keyActs chart legend narrow
// Runs inside a copy of the page of a model: uses it as a reader would and tells what came of it on the console.
(() => {
  const errors = window.pageErrors;
  const rule = () => document.getElementById("rule").value;
  const point = (type, x, y) => canvas().dispatchEvent(new PointerEvent(type, { clientX: x, clientY: y, button: 0, pointerId: 1, bubbles: true }));
  const click = (x, y) => { point("pointerdown", x, y); point("pointerup", x, y); };
  async function run() {
    for (let i = 0; i < 200 && !document.documentElement.dataset.ready; ++i) await wait(50);
    const report = { ready: document.documentElement.dataset.ready };
    const first = await look();
    report.drawn = first.drawn > 0.03 && first.drawn < 0.95;
    const place = canvas().getBoundingClientRect(), x = place.left + place.width / 2, y = place.top + place.height / 2;
    point("pointermove", x, y);
    const card = document.getElementById("view-readout").textContent;
    report.hover = /face .+ · .+ (mm|in) · .+ · /.test(card);
    click(x, y);
    const chosen = await look();
    report.picks = /^on = \{ parts = ".+", sides = ".+" \}$/.test(rule()) && chosen.sum !== first.sum && rule().includes(card.split(" · ")[0]);
    click(x, y);
    report.released = rule() === "" && (await look()).sum === first.sum;
    // Two faces from the list: two parts in one rule, or a rule each.
    const boxes = [...document.querySelectorAll("#faces input")];
    boxes[0].click();
    report.list = rule().startsWith("on = {") && boxes[0].checked;
    boxes[boxes.length - 1].click();
    report.several = (rule().match(/\[\[surface\]\]/g) ?? []).length === 2 || rule().startsWith("on = {");
    document.getElementById("rule-none").click();
    const part = document.querySelector("#view-parts input");
    part.click();
    report.parts = (await look()).sum !== first.sum;
    part.click();
    canvas().dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowLeft", bubbles: true }));
    report.keyActs = (await look()).sum !== first.sum;
    report.chart = document.querySelectorAll(".chart canvas").length > 0;
    report.legend = document.querySelectorAll(".claims li").length >= 2;
    report.narrow = await fits();
    report.text = rule();
    report.errors = errors;
    return report;
  }
  run().catch((error) => ({ errors: [...errors, String(error)] })).then((report) => {
    console.log(`RESULT ${JSON.stringify(report)}`);
  });
})();
