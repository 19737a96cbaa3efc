// Brings the page to life: the view, its controls and the charts. Everything else on the page stands without it.
import uPlot from "uplot";
import { readFields } from "./data.js";
import { startModel } from "./model.js";
import { listParts } from "./parts.js";
import { Viewer } from "./viewer.js";

const byId = (id) => document.getElementById(id);
const strokes = ["#7a1f1f", "#c8641b", "#2b6777", "#1d2f4f", "#7f7f2a", "#8a5a83", "#4d4d4d", "#3c8d5a"];
const dashes = [[], [10, 4], [5, 3], [12, 3, 3, 3], [4, 4], [8, 3, 2, 3], [2, 2], [14, 6]];

function timeText(seconds) {
  const [unit, size] = seconds < 120 ? ["s", 1] : seconds < 7200 ? ["min", 60] : ["h", 3600];
  return `${(seconds / size).toFixed(seconds === 0 ? 0 : 1)} ${unit}`;
}

function startView(fields, colours, degree) {
  const canvas = byId("view");
  const viewer = new Viewer(canvas, fields, colours);
  const select = byId("view-study"), slider = byId("view-time"), play = byId("view-play");
  const low = byId("view-low"), high = byId("view-high"), threshold = byId("view-threshold");
  const axis = byId("view-axis"), cut = byId("view-cut"), flip = byId("view-flip");
  let study = null, timer = null;

  fields.studies.forEach((s, i) => select.add(new Option(s.name, i)));
  const applyRange = () => {
    viewer.setRange(+low.value, +high.value);
    byId("scale-low").textContent = `${(+low.value).toFixed(0)} ${degree}`;
    byId("scale-high").textContent = `${(+high.value).toFixed(0)} ${degree}`;
    byId("scale-middle").textContent = `${((+low.value + +high.value) / 2).toFixed(0)} ${degree}`;
  };
  const applySection = () => {
    viewer.setSection(axis.value === "" ? null : +axis.value, cut.value / 100, flip.checked);
    cut.disabled = flip.disabled = axis.value === "";
  };
  const showFrame = (n) => {
    viewer.frame(n);
    const frame = study.frames[n];
    byId("view-now").textContent = frame.time === null ? "steady" : timeText(frame.time);
    slider.setAttribute("aria-valuetext", byId("view-now").textContent);
  };
  const stop = () => {
    clearInterval(timer);
    timer = null;
    play.textContent = "Play";
  };
  const showStudy = () => {
    stop();
    study = fields.studies[+select.value];
    viewer.show(study);
    slider.max = study.frames.length - 1;
    slider.value = slider.max;
    byId("time-row").hidden = study.frames.length < 2;
    low.value = Math.floor(study.low);
    high.value = Math.ceil(study.high);
    applyRange();
    showFrame(+slider.value);
  };
  select.addEventListener("change", showStudy);
  slider.addEventListener("input", () => showFrame(+slider.value));
  play.addEventListener("click", () => {
    if (timer) return stop();
    play.textContent = "Stop";
    timer = setInterval(() => {
      slider.value = (+slider.value + 1) % study.frames.length;
      showFrame(+slider.value);
    }, 350);
  });
  for (const input of [low, high]) input.addEventListener("input", applyRange);
  threshold.addEventListener("input", () => viewer.setThreshold(threshold.value === "" ? null : +threshold.value));
  for (const input of [axis, cut, flip]) input.addEventListener("input", applySection);
  byId("view-home").addEventListener("click", () => viewer.home());
  byId("view-full").addEventListener("click", () => { low.value = Math.floor(study.low); high.value = Math.ceil(study.high); threshold.value = ""; viewer.setThreshold(null); applyRange(); });

  listParts(fields.parts, viewer);

  const readout = byId("view-readout");
  canvas.addEventListener("pointermove", (e) => {
    const found = viewer.pick(e.clientX, e.clientY);
    readout.textContent = found ? `${found.part}  ${found.temperature.toFixed(1)} ${degree}` : "";
  });
  canvas.addEventListener("pointerleave", () => { readout.textContent = ""; });
  const bar = byId("scale-bar").getContext("2d"), image = bar.createImageData(1, 256);
  for (let i = 0; i < 256; ++i) for (let c = 0; c < 4; ++c) image.data[4 * i + c] = colours[4 * (255 - i) + c];
  bar.putImageData(image, 0, 0);
  showStudy();
  axis.value = "";
  applySection();
  window.firnfieldView = viewer;  // for tests
}

function startChart(place, history, degree) {
  const longest = history.time[history.time.length - 1];
  const [unit, size] = longest < 300 ? ["s", 1] : longest < 3 * 3600 ? ["min", 60] : ["h", 3600];
  const limits = {
    hooks: {
      draw: (chart) => {
        const { ctx, bbox } = chart;
        ctx.save();
        ctx.strokeStyle = ctx.fillStyle = "#222";
        ctx.setLineDash([8, 6]);
        ctx.font = `${12 * devicePixelRatio}px sans-serif`;
        ctx.textAlign = "left";
        ctx.textBaseline = "bottom";
        for (const limit of history.limits) {
          const y = chart.valToPos(limit.value, "y", true);
          if (y < bbox.top || y > bbox.top + bbox.height) continue;
          ctx.beginPath();
          ctx.moveTo(bbox.left, y);
          ctx.lineTo(bbox.left + bbox.width, y);
          ctx.stroke();
          ctx.fillText(limit.text, bbox.left + 8, y - 3);
        }
        ctx.restore();
      },
    },
  };
  const width = () => Math.max(320, place.clientWidth);
  const chart = new uPlot({
    width: width(), height: 360, plugins: [limits], scales: { x: { time: false } },
    axes: [{ label: `time (${unit})` }, { label: degree }],
    series: [{ label: unit, value: (u, v) => (v == null ? "–" : v.toFixed(2)) }, ...history.columns.map((c, i) => ({
      label: c.name, stroke: strokes[i % strokes.length], dash: dashes[i % dashes.length], width: 2, points: { show: false }, value: (u, v) => (v == null ? "–" : `${v.toFixed(1)} ${degree}`),
    }))],
  }, [history.time.map((t) => t / size), ...history.columns.map((c) => c.values)], place);
  const fit = () => chart.setSize({ width: width(), height: 360 });
  new ResizeObserver(fit).observe(place);
  addEventListener("beforeprint", () => chart.setSize({ width: 660, height: 300 }));  // what A4 is wide
  addEventListener("afterprint", fit);
}

async function start() {
  const data = JSON.parse(byId("page-data").textContent);
  for (const [study, history] of Object.entries(data.histories)) startChart(byId(`chart-${study}`), history, history.unit ?? data.degree);
  if (!byId("view")) return;
  try {
    if (data.model) {
      await startModel(data);
      document.documentElement.dataset.ready = "true";
      return;
    }
    const fields = await readFields(data.fields, byId("page-fields").textContent.trim());
    const packed = atob(data.colours), colours = new Uint8Array(1024);
    for (let i = 0; i < 256; ++i) colours.set([packed.charCodeAt(3 * i), packed.charCodeAt(3 * i + 1), packed.charCodeAt(3 * i + 2), 255], 4 * i);
    startView(fields, colours, data.degree);
    document.documentElement.dataset.ready = "true";
  } catch (error) {
    document.documentElement.dataset.ready = "false";
    byId("view-problem").hidden = false;
    byId("view-problem").textContent = `The view could not be started; it needs a browser with WebGL 2 (${error.message}). Pictures and tables below show the same.`;
  }
}

start();
