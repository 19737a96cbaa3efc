// The list of parts beside a view: each can be hidden.
const byId = (id) => document.getElementById(id);

export function listParts(parts, viewer) {
  const list = byId("view-parts");
  parts.forEach((name, p) => {
    const label = document.createElement("label"), box = document.createElement("input");
    box.type = "checkbox";
    box.checked = true;
    box.addEventListener("change", () => viewer.hide(p, !box.checked));
    label.append(box, " ", name);
    list.append(label);
  });
  const all = (shown) => list.querySelectorAll("input").forEach((b) => { if (b.checked !== shown) b.click(); });
  byId("parts-all").addEventListener("click", () => all(true));
  byId("parts-none").addEventListener("click", () => all(false));
}
