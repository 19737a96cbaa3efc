// expects: drawn sectionActs cutMoves sectionUndone partActs partUndone thresholdActs rangeActs keyActs readout timeActs narrow
// Runs inside a copy of the report page: uses it as a reader would and tells what came of it on the console.
(() => {
  const errors = window.pageErrors;
  const change = (id, value, event = "input") => {
    const element = document.getElementById(id);
    if (element.type === "checkbox") element.checked = value; else element.value = value;
    element.dispatchEvent(new Event(event, { bubbles: true }));
  };
  async function run() {
    const parsed = performance.now();
    for (let i = 0; i < 200 && !document.documentElement.dataset.ready; ++i) await wait(50);
    const report = { ready: document.documentElement.dataset.ready, milliseconds: Math.round(performance.now() - parsed) };
    const first = await look();
    report.drawn = first.drawn > 0.05 && first.drawn < 0.95;
    change("view-axis", "1");
    change("view-cut", "50");
    const cut = await look();
    report.sectionActs = cut.sum !== first.sum;
    change("view-cut", "30");
    report.cutMoves = (await look()).sum !== cut.sum;
    change("view-axis", "");
    report.sectionUndone = (await look()).sum === first.sum;
    // Of all parts at least the outer ones are seen.
    report.partActs = false;
    for (const box of document.querySelectorAll("#view-parts input")) {
      box.click();
      report.partActs = report.partActs || (await look()).sum !== first.sum;
      box.click();
      if (report.partActs) break;
    }
    report.partUndone = (await look()).sum === first.sum;
    change("view-threshold", document.getElementById("view-high").value);
    report.thresholdActs = (await look()).sum !== first.sum;
    change("view-threshold", "");
    change("view-high", +document.getElementById("view-high").value + 50);
    report.rangeActs = (await look()).sum !== first.sum;
    document.getElementById("view-full").click();
    canvas().dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowLeft", bubbles: true }));
    report.keyActs = (await look()).sum !== first.sum;
    document.getElementById("view-home").click();
    await wait(100);
    const place = canvas().getBoundingClientRect();
    canvas().dispatchEvent(new PointerEvent("pointermove", { clientX: place.left + place.width / 2, clientY: place.top + place.height / 2, bubbles: true }));
    report.readout = /°C/.test(document.getElementById("view-readout").textContent);
    const slider = document.getElementById("view-time");
    const studies = document.getElementById("view-study").options;
    report.timeActs = "no study in time";
    for (let s = 0; s < studies.length; ++s) {
      change("view-study", String(s), "change");
      if (+slider.max < 2) continue;
      change("view-time", "0");
      const begin = await look();
      change("view-time", slider.max);
      report.timeActs = (await look()).sum !== begin.sum;
    }
    report.narrow = await fits();
    report.charts = document.querySelectorAll(".chart canvas").length;
    report.errors = errors.filter((e) => !/^ResizeObserver loop/.test(e));  // of the widths above: a browser says so of any observer
    return report;
  }
  run().catch((error) => ({ errors: [...errors, String(error)] })).then((report) => {
    console.log(`RESULT ${JSON.stringify(report)}`);
  });
})();
