// What scripts that use a page as a reader would have in common: waiting, and looking at what the view has drawn.
const wait = (ms) => new Promise((done) => setTimeout(done, ms));
const canvas = () => document.getElementById("view");
/** Share of pixels that are not background, and a fingerprint of all. */
async function look() {
  // Until the view has drawn what it was told to.
  await wait(50);
  for (let i = 0; i < 400 && window.firnfieldView.waiting; ++i) await wait(50);
  const copy = document.createElement("canvas");
  copy.width = 320;
  copy.height = 240;
  const context = copy.getContext("2d");
  context.drawImage(canvas(), 0, 0, copy.width, copy.height);
  const data = context.getImageData(0, 0, copy.width, copy.height).data;
  let drawn = 0, sum = 0;
  for (let i = 0; i < data.length; i += 4) {
    if (Math.abs(data[i] - 249) + Math.abs(data[i + 1] - 250) + Math.abs(data[i + 2] - 252) > 12) ++drawn;
    sum = (sum * 31 + data[i] * 65536 + data[i + 1] * 256 + data[i + 2]) % 2147483647;
  }
  return { drawn: drawn / (data.length / 4), sum };
}
/** Nothing is wider than the window, whatever its width. */
async function fits() {
  let narrow = true;
  for (const width of [320, 500, 900, 1600]) {
    document.body.style.width = `${width}px`;
    await wait(100);
    narrow = narrow && document.body.scrollWidth <= width + 1;
  }
  document.body.style.width = "";
  return narrow;
}
