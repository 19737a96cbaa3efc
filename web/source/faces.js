// The assembly of a model before it is solved: every face in the colour of what claims it.
import { AmbientLight, BufferAttribute, BufferGeometry, DirectionalLight, DoubleSide, LineBasicMaterial, LineSegments, Mesh, MeshLambertMaterial } from "three";
import { Stage } from "./stage.js";

export class FaceViewer extends Stage {
  /** `faces` tell the part of each; `colours` its colour as [red, green, blue] of 0 to 255. */
  constructor(canvas, geometry, faces, colours) {
    super(canvas);
    this.faces = faces;
    this.colours = colours;
    this.setExtent(geometry.box);
    this.scene.add(new AmbientLight("#ffffff", 2.1));
    const light = new DirectionalLight("#ffffff", 1.6);
    light.position.set(0.4, 0.7, 1);
    this.camera.add(light);
    this.parts = new Map();
    const byPart = new Map();
    for (const range of geometry.ranges) {
      const part = faces[range.face].part;
      if (!byPart.has(part)) byPart.set(part, []);
      byPart.get(part).push(range);
    }
    for (const [part, ranges] of byPart) this.parts.set(part, this.build(geometry, ranges));
    for (let face = 0; face < faces.length; ++face) this.paint(face);
    this.home();
  }

  build(geometry, ranges) {
    const count = ranges.reduce((sum, r) => sum + r.count, 0), positions = new Float32Array(9 * count), normals = new Float32Array(9 * count), owner = new Uint32Array(count);
    const edges = [];
    const places = new Map();
    let at = 0;
    for (const range of ranges) {
      const sides = new Map(), first = at;
      for (let t = range.first; t < range.first + range.count; ++t, ++at) {
        owner[at] = range.face;
        const corners = [0, 1, 2].map((c) => geometry.indices[3 * t + c]), p = corners.map((c) => geometry.positions.subarray(3 * c, 3 * c + 3));
        const u = [0, 1, 2].map((a) => p[1][a] - p[0][a]), v = [0, 1, 2].map((a) => p[2][a] - p[0][a]);
        const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]], length = Math.hypot(...n) || 1;
        // What others cover lies a little deeper, so that where a face is covered in part its exposed part is seen.
        const deeper = this.faces[range.face].exposed ? 0 : 1e-4 * this.size / length;
        for (let c = 0; c < 3; ++c) {
          positions.set(p[c].map((x, axis) => x - deeper * n[axis]), 9 * at + 3 * c);
          normals.set(n.map((x) => x / length), 9 * at + 3 * c);
          const a = corners[c], b = corners[(c + 1) % 3], key = a < b ? `${a} ${b}` : `${b} ${a}`;
          sides.set(key, sides.has(key) ? null : [a, b]);
        }
      }
      for (const side of this.faces[range.face].exposed ? sides.values() : []) {
        if (side) for (const corner of side) edges.push(...geometry.positions.subarray(3 * corner, 3 * corner + 3));
      }
      places.set(range.face, { first, count: at - first });
    }
    const surface = new BufferGeometry();
    surface.setAttribute("position", new BufferAttribute(positions, 3));
    surface.setAttribute("normal", new BufferAttribute(normals, 3));
    surface.setAttribute("color", new BufferAttribute(new Uint8Array(9 * count), 3, true));
    const mesh = new Mesh(surface, new MeshLambertMaterial({ vertexColors: true, side: DoubleSide, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 }));
    const outline = new BufferGeometry();
    outline.setAttribute("position", new BufferAttribute(new Float32Array(edges), 3));
    const lines = new LineSegments(outline, new LineBasicMaterial({ color: "#20242c", transparent: true, opacity: 0.55 }));
    this.scene.add(mesh, lines);
    return { mesh, lines, owner, places };
  }

  /** Gives a face its colour, or another one. */
  paint(face, colour = this.colours[face]) {
    const part = this.parts.get(this.faces[face].part), place = part?.places.get(face);
    if (!place) return;
    const attribute = part.mesh.geometry.attributes.color;
    for (let v = 3 * place.first; v < 3 * (place.first + place.count); ++v) attribute.array.set(colour, 3 * v);
    attribute.needsUpdate = true;
    this.draw();
  }

  hide(part, hidden) {
    const own = this.parts.get(part);
    if (!own) return;
    own.mesh.visible = own.lines.visible = !hidden;
    this.draw();
  }

  /** The face under a point of the canvas, or null. */
  pick(x, y) {
    const hit = this.hits(x, y, [...this.parts.values()].map((p) => p.mesh))[0];
    if (!hit) return null;
    const part = [...this.parts.values()].find((p) => p.mesh === hit.object);
    return part.owner[hit.faceIndex];
  }
}
