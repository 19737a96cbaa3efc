// The assembly in three dimensions, coloured by temperature.
import {
  AlwaysStencilFunc, BackSide, BufferAttribute, BufferGeometry, Data3DTexture, DataTexture, DecrementWrapStencilOp, DoubleSide, FloatType, FrontSide, GLSL3,
  IncrementWrapStencilOp, LinearFilter, Mesh, NearestFilter, NotEqualStencilFunc, PlaneGeometry, RedFormat, RGBAFormat, Scene, ShaderMaterial, UnsignedByteType,
  Vector2, Vector3,
} from "three";
import { Stage } from "./stage.js";

const surfaceVertex = `
  in float temperature;
  out float kelvin;
  out vec3 world;
  void main() {
    kelvin = temperature;
    world = position;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }`;

const colouring = `
  uniform sampler2D colours;
  uniform vec2 range;
  uniform float threshold;
  vec3 colourOf(float kelvin) {
    float tone = clamp((kelvin - range.x) / max(range.y - range.x, 1e-6), 0.0, 1.0);
    return texture(colours, vec2((tone * 255.0 + 0.5) / 256.0, 0.5)).rgb;
  }`;

const surfaceFragment = `
  precision highp float;
  ${colouring}
  uniform vec4 section;
  in float kelvin;
  in vec3 world;
  out vec4 pixel;
  void main() {
    if (dot(section.xyz, world) > section.w) discard;
    vec3 normal = normalize(cross(dFdx(world), dFdy(world)));
    vec3 light = normalize(cameraPosition - world + vec3(0.2, -0.1, 0.35) * length(cameraPosition - world));
    float brightness = 0.72 + 0.28 * abs(dot(normal, light));
    vec3 colour = kelvin < threshold ? vec3(0.86, 0.88, 0.90) : colourOf(kelvin);
    pixel = vec4(colour * brightness, 1.0);
  }`;

// Counts what of a part lies behind the cut: where it is not even, the cut runs through the part.
const countFragment = `
  precision highp float;
  uniform vec4 section;
  in vec3 world;
  out vec4 pixel;
  void main() {
    if (dot(section.xyz, world) > section.w) discard;
    pixel = vec4(1.0);
  }`;

// The cut face of one part: temperatures between the boxes that it was divided into.
const capFragment = `
  precision highp float;
  precision highp sampler3D;
  ${colouring}
  uniform sampler3D boxes;
  uniform sampler3D boxPart;
  uniform sampler2D lines;
  uniform vec3 low;
  uniform vec3 high;
  uniform vec2 coded;
  uniform float part;
  in vec3 world;
  out vec4 pixel;
  // In boxes, from the middle of the first one.
  float place(int axis) {
    float share = clamp((world[axis] - low[axis]) / (high[axis] - low[axis]), 0.0, 1.0);
    return texelFetch(lines, ivec2(int(min(share * 2048.0, 2047.0)), axis), 0).r;
  }
  void main() {
    vec3 at = vec3(place(0), place(1), place(2));
    ivec3 count = textureSize(boxes, 0);
    ivec3 corner = ivec3(floor(at));
    float sum = 0.0, weight = 0.0;
    for (int reach = 1; reach <= 2 && weight == 0.0; ++reach) {
      int side = 2 * reach, all = side * side * side;
      for (int n = 0; n < all; ++n) {
        ivec3 box = corner + ivec3(n % side, (n / side) % side, n / (side * side)) - ivec3(reach - 1);
        if (any(lessThan(box, ivec3(0))) || any(greaterThanEqual(box, count))) continue;
        if (abs(texelFetch(boxPart, box, 0).r * 255.0 - part) > 0.5) continue;
        vec3 away = abs(vec3(box) - at);
        float own = reach == 1 ? max(1e-4, (1.0 - away.x) * (1.0 - away.y) * (1.0 - away.z)) : 1.0 / (0.1 + dot(away, away));
        sum += own * texelFetch(boxes, box, 0).r;
        weight += own;
      }
    }
    float kelvin = mix(coded.x, coded.y, weight > 0.0 ? (sum / weight * 255.0 - 1.0) / 254.0 : 0.0);
    pixel = vec4(kelvin < threshold ? vec3(0.86, 0.88, 0.90) : colourOf(kelvin), 1.0);
  }`;

const capVertex = `
  out vec3 world;
  void main() {
    vec4 at = modelMatrix * vec4(position, 1.0);
    world = at.xyz;
    gl_Position = projectionMatrix * viewMatrix * at;
  }`;

export class Viewer extends Stage {
  constructor(canvas, fields, colours) {
    super(canvas);
    this.fields = fields;
    this.hidden = new Set();
    const texture = new DataTexture(colours, 256, 1, RGBAFormat, UnsignedByteType);
    texture.minFilter = texture.magFilter = LinearFilter;
    texture.needsUpdate = true;
    this.uniforms = {
      colours: { value: texture }, range: { value: new Vector2(0, 1) }, threshold: { value: -1e9 }, section: { value: [0, 0, 0, 1e9] },
    };
  }

  /** Shows a study; keeps the view where the geometry stays. */
  show(study) {
    this.study = study;
    if (this.geometryIndex !== study.geometry) this.build(study.geometry);
    this.frame(study.frames.length - 1);
  }

  build(index) {
    const fresh = this.geometryIndex === undefined;
    this.geometryIndex = index;
    this.scene.clear();
    this.scene.add(this.camera);
    const g = this.fields.geometries[index];
    this.geometry = g;
    this.temperature = new BufferAttribute(new Float32Array(g.vertices), 1);
    const positions = new BufferAttribute(g.positions, 3);
    this.meshes = g.ranges.map((range) => {
      const part = new BufferGeometry();
      part.setAttribute("position", positions);
      part.setAttribute("temperature", this.temperature);
      part.setIndex(new BufferAttribute(g.indices.subarray(3 * range.first, 3 * (range.first + range.count)), 1));
      const material = new ShaderMaterial({ glslVersion: GLSL3, uniforms: this.uniforms, vertexShader: surfaceVertex, fragmentShader: surfaceFragment, side: DoubleSide });
      const mesh = new Mesh(part, material);
      mesh.frustumCulled = false;
      mesh.userData.part = range.part;
      this.scene.add(mesh);
      return mesh;
    });
    this.setExtent(g.box);
    this.buildCap(g);
    this.applyParts();
    if (fresh) this.home();
    this.resize();
  }

  buildCap(g) {
    const [nx, ny, nz] = g.lines.map((l) => l.length - 1);
    const volume = (data) => {
      const t = new Data3DTexture(data, nx, ny, nz);
      t.format = RedFormat;
      t.type = UnsignedByteType;
      t.minFilter = t.magFilter = NearestFilter;
      t.unpackAlignment = 1;
      t.needsUpdate = true;
      return t;
    };
    // From a share of the extent to boxes, along each axis: whole numbers at their middles.
    const samples = 2048, table = new Float32Array(3 * samples);
    g.lines.forEach((lines, axis) => {
      const middles = lines.slice(1).map((line, i) => 0.5 * (line + lines[i]));
      let box = 0;
      for (let s = 0; s < samples; ++s) {
        const at = g.box[axis] + ((s + 0.5) / samples) * (g.box[axis + 3] - g.box[axis]);
        while (box + 2 < middles.length && at > middles[box + 1]) ++box;
        const share = middles.length > 1 ? (at - middles[box]) / (middles[box + 1] - middles[box]) : 0;
        table[axis * samples + s] = box + Math.max(0, Math.min(1, share));
      }
    });
    const lines = new DataTexture(table, samples, 3, RedFormat, FloatType);
    lines.minFilter = lines.magFilter = NearestFilter;
    lines.needsUpdate = true;
    this.boxes = volume(new Uint8Array(nx * ny * nz));
    const stencilled = { stencilWrite: true, stencilFunc: NotEqualStencilFunc, stencilRef: 0 };
    this.cap = new Mesh(new PlaneGeometry(2, 2), new ShaderMaterial({
      glslVersion: GLSL3, side: DoubleSide, vertexShader: capVertex, fragmentShader: capFragment, ...stencilled,
      uniforms: {
        ...this.uniforms, boxes: { value: this.boxes }, boxPart: { value: volume(g.boxPart) }, lines: { value: lines }, low: { value: this.low }, high: { value: this.high },
        coded: { value: new Vector2(0, 1) }, part: { value: 0 },
      },
    }));
    this.cap.frustumCulled = false;
    this.capScene = new Scene().add(this.cap);
    // Each part as a closed surface, which only counts.
    const counting = [[FrontSide, IncrementWrapStencilOp], [BackSide, DecrementWrapStencilOp]].map(([side, op]) => new ShaderMaterial({
      glslVersion: GLSL3, side, vertexShader: surfaceVertex.replace("in float temperature;", "").replace("kelvin = temperature;", "kelvin = 0.0;"), fragmentShader: countFragment,
      uniforms: this.uniforms, colorWrite: false, depthWrite: false, depthTest: false, stencilWrite: true, stencilFunc: AlwaysStencilFunc, stencilZPass: op,
    }));
    const positions = new BufferAttribute(g.solids.positions, 3);
    this.solids = g.solids.ranges.map((range) => {
      const part = new BufferGeometry(), scene = new Scene();
      part.setAttribute("position", positions);
      part.setIndex(new BufferAttribute(g.solids.indices.subarray(3 * range.first, 3 * (range.first + range.count)), 1));
      for (const material of counting) {
        const mesh = new Mesh(part, material);
        mesh.frustumCulled = false;
        scene.add(mesh);
      }
      // Where it lies, so that only what can be cut is looked at.
      const low = [Infinity, Infinity, Infinity], high = [-Infinity, -Infinity, -Infinity];
      for (const corner of part.index.array) {
        for (let axis = 0; axis < 3; ++axis) {
          const at = g.solids.positions[3 * corner + axis];
          low[axis] = Math.min(low[axis], at);
          high[axis] = Math.max(high[axis], at);
        }
      }
      return { part: range.part, scene, low, high };
    });
    this.cut = null;
  }

  /** The assembly, and of each part that is cut what the cut shows of it. */
  render() {
    super.render();
    if (!this.cut) return;
    const { axis, at, place } = this.cut, [across, up] = [[2, 1], [0, 2], [0, 1]][axis];
    for (const { part, scene, low, high } of this.solids) {
      if (this.hidden.has(part) || part >= this.fields.parts.length || at < low[axis] || at > high[axis]) continue;
      this.cap.position.set(...low.map((l, a) => 0.5 * (l + high[a]))).setComponent(axis, place);
      this.cap.scale.set(0.5 * (high[across] - low[across]) + 1e-4 * this.size, 0.5 * (high[up] - low[up]) + 1e-4 * this.size, 1);
      this.renderer.clearStencil();
      this.renderer.render(scene, this.camera);
      this.cap.material.uniforms.part.value = Math.min(255, part + 1);  // as boxes count them
      this.renderer.render(this.capScene, this.camera);
    }
  }

  /** Takes the temperatures of a frame. */
  frame(number) {
    const frame = this.study.frames[number], raw = frame.raw(), [low, high] = frame.range;
    for (let i = 0; i < raw.length; ++i) this.temperature.array[i] = low + raw[i] * frame.step;
    this.temperature.needsUpdate = true;
    this.boxes.image.data.set(frame.boxes());
    this.boxes.needsUpdate = true;
    this.cap.material.uniforms.coded.value.set(low, high);
    this.draw();
  }

  setRange(low, high) { this.uniforms.range.value.set(low, high); this.draw(); }
  setThreshold(value) { this.uniforms.threshold.value = value ?? -1e9; this.draw(); }

  /** Cuts across an axis (0, 1, 2) at a share of the extent; keeps the lower side, or the upper one. */
  setSection(axis, share, upper) {
    this.cut = null;
    if (axis === null) {
      this.uniforms.section.value = [0, 0, 0, 1e9];
    } else {
      const at = this.low.getComponent(axis) + share * (this.high.getComponent(axis) - this.low.getComponent(axis));
      const sign = upper ? -1 : 1, normal = [0, 0, 0];
      normal[axis] = sign;
      this.uniforms.section.value = [...normal, sign * at];
      this.cut = { axis, at, place: at - sign * 1e-5 * this.size };
      this.cap.rotation.set(axis === 1 ? Math.PI / 2 : 0, axis === 0 ? Math.PI / 2 : 0, 0);
    }
    this.draw();
  }

  hide(part, hidden) {
    if (hidden) this.hidden.add(part); else this.hidden.delete(part);
    this.applyParts();
    this.draw();
  }

  applyParts() {
    for (const mesh of this.meshes) mesh.visible = !this.hidden.has(mesh.userData.part);
  }

  /** What lies under a point of the canvas: part and temperature. */
  pick(x, y) {
    const section = this.uniforms.section.value;
    const kept = (p) => section[0] * p.x + section[1] * p.y + section[2] * p.z <= section[3];
    const hits = this.hits(x, y, this.meshes).filter((h) => kept(h.point));
    if (!hits.length) return null;
    const hit = hits[0], { a, b, c } = hit.face, at = (i) => new Vector3().fromBufferAttribute(hit.object.geometry.attributes.position, i);
    const whole = triangle(at(a), at(b), at(c)) || 1, t = this.temperature.array;
    const value = (t[a] * triangle(hit.point, at(b), at(c)) + t[b] * triangle(at(a), hit.point, at(c)) + t[c] * triangle(at(a), at(b), hit.point)) / whole;
    return { part: this.fields.parts[hit.object.userData.part], temperature: value, point: hit.point };
  }
}

function triangle(a, b, c) { return b.clone().sub(a).cross(c.clone().sub(a)).length(); }
