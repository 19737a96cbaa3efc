// The page of a model before it is solved: what is under the pointer, and the rule that picks the faces that were clicked.
import { readFaces } from "./data.js";
import { FaceViewer } from "./faces.js";
import { listParts } from "./parts.js";

const byId = (id) => document.getElementById(id);
const text = (value) => JSON.stringify(value);  // what it escapes TOML reads the same way
const list = (values) => (values.length === 1 ? text(values[0]) : `[${values.map(text).join(", ")}]`);

/** What one rule has to say to pick a face. */
function wish(face) { return JSON.stringify([face.name, face.facing]); }

/** Rules for the faces: those of parts that are alike in what is picked of them share one. */
export function rulesFor(faces, parts, chosen) {
  const byPart = new Map();
  for (const f of chosen) {
    const face = faces[f];
    if (!face.exposed) continue;  // no rule picks it
    if (!byPart.has(face.body)) byPart.set(face.body, new Set());
    byPart.get(face.body).add(wish(face));
  }
  const groups = new Map();
  for (const [body, wishes] of byPart) {
    // Faces of one name that look several ways need their direction; with different directions a rule each.
    const ways = new Map();
    for (const w of wishes) {
      const [name, facing] = JSON.parse(w), key = facing ?? "";
      if (!ways.has(key)) ways.set(key, []);
      ways.get(key).push(name);
    }
    for (const [facing, names] of ways) {
      const key = JSON.stringify([facing, [...new Set(names)].sort()]);
      if (!groups.has(key)) groups.set(key, []);
      groups.get(key).push(body);
    }
  }
  // All copies of a part go by its name.
  const copies = new Map();
  for (const face of faces) {
    if (!copies.has(face.part)) copies.set(face.part, new Set());
    copies.get(face.part).add(face.body);
  }
  return [...groups].map(([key, bodies]) => {
    const [facing, sides] = JSON.parse(key);
    const own = new Set(bodies), named = new Set();
    for (const [part, all] of copies) {
      if (![...all].every((body) => own.has(body))) continue;
      for (const body of all) own.delete(body);
      named.add(parts[part]);
    }
    return { parts: [...named, ...own].sort(), bodies, sides, facing: facing || null };
  });
}

/** Whether a rule picks an exposed face. */
export function picks(rule, face) {
  return face.exposed && rule.bodies.includes(face.body) && rule.sides.includes(face.name) && (!rule.facing || rule.facing === face.facing);
}

function rulesText(rules) {
  const keys = (r) => [`parts = ${list(r.parts)}`, `sides = ${list(r.sides)}`, ...(r.facing ? [`facing = ${text(r.facing)}`] : [])];
  if (!rules.length) return "";
  if (rules.length === 1) return `on = { ${keys(rules[0]).join(", ")} }`;
  const names = rules.map((r, i) => `picked ${i + 1}`);
  return `${rules.map((r, i) => `[[surface]]\nname = ${text(names[i])}\n${keys(r).join("\n")}\n`).join("\n")}\n# and in the rule:\non = ${list(names)}`;
}

export async function startModel(data) {
  const { faces, parts, claims } = data.model;
  const geometry = await readFaces(data.model, byId("page-fields").textContent.trim());
  const colourOf = (face) => (face.exposed ? claims[face.claims[0]].colour : [176, 184, 194]);
  const viewer = new FaceViewer(byId("view"), geometry, faces, faces.map(colourOf));
  const chosen = new Set(), out = byId("rule"), told = byId("rule-told"), card = byId("view-readout");
  const claimed = (face) => (face.exposed ? face.claims.map((c) => claims[c].name).join(", ") : face.covered);
  const describe = (face) => `${face.body} · face ${face.name} · ${face.size} · ${face.area} · ${face.direction} · ${claimed(face)}`;
  const highlight = [242, 177, 52], also = [250, 219, 148];
  let rules = [];

  const show = () => {
    rules = rulesFor(faces, parts, chosen);
    out.value = rulesText(rules);
    let more = 0;
    faces.forEach((face, f) => {
      const picked = rules.some((r) => picks(r, face));
      if (picked && !chosen.has(f)) ++more;
      viewer.paint(f, chosen.has(f) ? highlight : picked ? also : viewer.colours[f]);
    });
    const hidden = [...chosen].filter((f) => !faces[f].exposed).length;
    told.textContent = !chosen.size ? "Click faces to pick them; click again to let them go."
      : `${chosen.size} face${chosen.size === 1 ? "" : "s"} picked${more ? `; the rule takes ${more} more, shown pale: narrow it by a region` : ""}${hidden ? `; ${hidden} of them ${hidden === 1 ? "is" : "are"} covered, which no rule picks` : ""}.`;
    byId("rule-copy").disabled = byId("rule-none").disabled = !chosen.size;
    for (const box of byId("faces").querySelectorAll("input")) box.checked = chosen.has(+box.value);
  };
  const toggle = (face) => {
    if (chosen.has(face)) chosen.delete(face); else chosen.add(face);
    show();
  };

  const canvas = byId("view");
  let down = null;
  canvas.addEventListener("pointerdown", (e) => { down = [e.clientX, e.clientY]; });
  canvas.addEventListener("pointerup", (e) => {
    const still = down && Math.hypot(e.clientX - down[0], e.clientY - down[1]) < 4;
    down = null;
    const face = still && e.button === 0 ? viewer.pick(e.clientX, e.clientY) : null;
    if (face !== null && face !== false) toggle(face);
  });
  canvas.addEventListener("pointermove", (e) => {
    if (e.buttons) return;
    const face = viewer.pick(e.clientX, e.clientY);
    card.textContent = face === null ? "" : describe(faces[face]);
  });
  canvas.addEventListener("pointerleave", () => { card.textContent = ""; });
  byId("rule-copy").addEventListener("click", async () => {
    out.select();
    try { await navigator.clipboard.writeText(out.value); } catch { document.execCommand("copy"); }
  });
  byId("rule-none").addEventListener("click", () => { chosen.clear(); show(); });
  byId("view-home").addEventListener("click", () => viewer.home());

  listParts(parts, viewer);

  // The same faces as a list, for those who do not click in the view.
  const table = byId("faces"), most = 1500;
  faces.slice(0, most).forEach((face, f) => {
    const row = table.insertRow(), box = document.createElement("input");
    box.type = "checkbox";
    box.value = f;
    box.setAttribute("aria-label", `pick ${face.body}, face ${face.name}`);
    box.addEventListener("change", () => toggle(f));
    row.insertCell().append(box);
    for (const cell of [face.body, face.name, face.direction, face.size, face.area, claimed(face)]) row.insertCell().textContent = cell;
    row.addEventListener("pointerenter", () => viewer.paint(f, highlight));
    row.addEventListener("pointerleave", () => viewer.paint(f, chosen.has(f) ? highlight : viewer.colours[f]));
  });
  byId("faces-more").textContent = faces.length > most ? `${faces.length - most} more faces can only be picked in the view.` : "";
  show();
  window.firnfieldView = viewer;  // for tests
}
