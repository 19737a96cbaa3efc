// The assembly in three dimensions, coloured by temperature.
import {
  BufferAttribute, BufferGeometry, Color, Data3DTexture, DataTexture, DoubleSide, FloatType, GLSL3, LinearFilter, Mesh, NearestFilter,
  OrthographicCamera, PlaneGeometry, Raycaster, RedFormat, RGBAFormat, Scene, ShaderMaterial, UnsignedByteType, Vector2, Vector3, WebGLRenderer,
} from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

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

// The cut face: temperatures of the boxes that the assembly was divided into.
const capFragment = `
  precision highp float;
  precision highp sampler3D;
  ${colouring}
  uniform sampler3D boxes;
  uniform sampler3D boxPart;
  uniform sampler2D lines;
  uniform sampler2D shown;
  uniform vec3 low;
  uniform vec3 high;
  uniform vec2 coded;
  in vec3 world;
  out vec4 pixel;
  float place(int axis) {
    float share = (world[axis] - low[axis]) / (high[axis] - low[axis]);
    return texture(lines, vec2(share, (float(axis) + 0.5) / 3.0)).r;
  }
  void main() {
    vec3 share = (world - low) / (high - low);
    if (any(lessThan(share, vec3(0.0))) || any(greaterThan(share, vec3(1.0)))) discard;
    vec3 at = vec3(place(0), place(1), place(2));
    float part = texture(boxPart, at).r * 255.0;
    if (part < 0.5 || texture(shown, vec2((part + 0.5) / 256.0, 0.5)).r < 0.5) discard;
    float kelvin = mix(coded.x, coded.y, (texture(boxes, at).r * 255.0 - 1.0) / 254.0);
    pixel = vec4(kelvin < threshold ? vec3(0.86, 0.88, 0.90) : colourOf(kelvin), 1.0);
  }`;

const capVertex = `
  out vec3 world;
  void main() {
    vec4 at = modelMatrix * vec4(position, 1.0);
    world = at.xyz;
    gl_Position = projectionMatrix * viewMatrix * at;
  }`;

export class Viewer {
  constructor(canvas, fields, colours) {
    this.canvas = canvas;
    this.fields = fields;
    this.renderer = new WebGLRenderer({ canvas, antialias: true, preserveDrawingBuffer: true });
    this.renderer.setClearColor(new Color("#f9fafc"));
    this.scene = new Scene();
    this.camera = new OrthographicCamera(-1, 1, 1, -1, -100, 100);
    this.camera.up.set(0, 0, 1);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener("change", () => this.draw());
    this.hidden = new Set();
    const texture = new DataTexture(colours, 256, 1, RGBAFormat, UnsignedByteType);
    texture.minFilter = texture.magFilter = LinearFilter;
    texture.needsUpdate = true;
    this.uniforms = {
      colours: { value: texture }, range: { value: new Vector2(0, 1) }, threshold: { value: -1e9 }, section: { value: [0, 0, 0, 1e9] },
    };
    this.raycaster = new Raycaster();
    new ResizeObserver(() => this.resize()).observe(canvas.parentElement);
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
    this.low = new Vector3(...g.box.slice(0, 3));
    this.high = new Vector3(...g.box.slice(3));
    this.centre = this.low.clone().add(this.high).multiplyScalar(0.5);
    this.size = this.high.clone().sub(this.low).length();
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
    // From a share of the extent to a share of the boxes, along each axis.
    const samples = 2048, table = new Float32Array(3 * samples);
    g.lines.forEach((lines, axis) => {
      let box = 0;
      for (let s = 0; s < samples; ++s) {
        const at = g.box[axis] + ((s + 0.5) / samples) * (g.box[axis + 3] - g.box[axis]);
        while (box + 2 < lines.length && at > lines[box + 1]) ++box;
        table[axis * samples + s] = (box + 0.5) / (lines.length - 1);
      }
    });
    const lines = new DataTexture(table, samples, 3, RedFormat, FloatType);
    lines.minFilter = lines.magFilter = NearestFilter;
    lines.needsUpdate = true;
    this.shown = new DataTexture(new Uint8Array(256).fill(255), 256, 1, RedFormat, UnsignedByteType);
    this.shown.needsUpdate = true;
    this.boxes = volume(new Uint8Array(nx * ny * nz));
    this.cap = new Mesh(new PlaneGeometry(2, 2), new ShaderMaterial({
      glslVersion: GLSL3, side: DoubleSide, vertexShader: capVertex, fragmentShader: capFragment,
      uniforms: {
        ...this.uniforms, boxes: { value: this.boxes }, boxPart: { value: volume(g.boxPart) }, lines: { value: lines }, shown: { value: this.shown },
        low: { value: this.low }, high: { value: this.high }, coded: { value: new Vector2(0, 1) },
      },
    }));
    this.cap.visible = false;
    this.cap.frustumCulled = false;
    this.scene.add(this.cap);
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
    this.cap.visible = axis !== null;
    if (axis === null) {
      this.uniforms.section.value = [0, 0, 0, 1e9];
    } else {
      const at = this.low.getComponent(axis) + share * (this.high.getComponent(axis) - this.low.getComponent(axis));
      const sign = upper ? -1 : 1, normal = [0, 0, 0];
      normal[axis] = sign;
      this.uniforms.section.value = [...normal, sign * at];
      this.cap.position.copy(this.centre).setComponent(axis, at - sign * 1e-5 * this.size);
      this.cap.rotation.set(axis === 1 ? Math.PI / 2 : 0, axis === 0 ? Math.PI / 2 : 0, 0);
      this.cap.scale.setScalar(this.size);
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
    for (let p = 0; p < this.fields.parts.length; ++p) this.shown.image.data[p + 1] = this.hidden.has(p) ? 0 : 255;
    this.shown.needsUpdate = true;
  }

  home() {
    const azimuth = -0.6, elevation = 0.5;
    this.controls.target.copy(this.centre);
    this.camera.position.set(Math.sin(azimuth) * Math.cos(elevation), -Math.cos(azimuth) * Math.cos(elevation), Math.sin(elevation)).multiplyScalar(this.size).add(this.centre);
    this.camera.zoom = 1;
    this.camera.lookAt(this.centre);
    this.controls.update();
    this.resize();
  }

  turn(right, up) {
    const arm = this.camera.position.clone().sub(this.controls.target);
    const length = arm.length(), azimuth = Math.atan2(arm.y, arm.x) + right, elevation = Math.max(-1.5, Math.min(1.5, Math.asin(arm.z / length) + up));
    arm.set(Math.cos(azimuth) * Math.cos(elevation), Math.sin(azimuth) * Math.cos(elevation), Math.sin(elevation)).multiplyScalar(length);
    this.camera.position.copy(this.controls.target).add(arm);
    this.camera.lookAt(this.controls.target);
    this.controls.update();
    this.draw();
  }

  zoom(factor) {
    this.camera.zoom *= factor;
    this.camera.updateProjectionMatrix();
    this.draw();
  }

  resize() {
    const box = this.canvas.parentElement.getBoundingClientRect();
    if (!box.width || !box.height) return;
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.renderer.setSize(box.width, box.height, false);
    const half = 0.52 * (this.size ?? 1), aspect = box.width / box.height;
    const across = Math.max(half, half * aspect), down = across / aspect;
    Object.assign(this.camera, { left: -across, right: across, top: down, bottom: -down, near: -20 * half, far: 40 * half });
    this.camera.updateProjectionMatrix();
    this.draw();
  }

  /** What lies under a point of the canvas: part and temperature. */
  pick(x, y) {
    const box = this.canvas.getBoundingClientRect();
    this.raycaster.setFromCamera(new Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2), this.camera);
    const section = this.uniforms.section.value;
    const kept = (p) => section[0] * p.x + section[1] * p.y + section[2] * p.z <= section[3];
    const hits = this.raycaster.intersectObjects(this.meshes.filter((m) => m.visible), false).filter((h) => kept(h.point));
    if (!hits.length) return null;
    const hit = hits[0], { a, b, c } = hit.face, at = (i) => new Vector3().fromBufferAttribute(hit.object.geometry.attributes.position, i);
    const whole = triangle(at(a), at(b), at(c)) || 1, t = this.temperature.array;
    const value = (t[a] * triangle(hit.point, at(b), at(c)) + t[b] * triangle(at(a), hit.point, at(c)) + t[c] * triangle(at(a), at(b), hit.point)) / whole;
    return { part: this.fields.parts[hit.object.userData.part], temperature: value, point: hit.point };
  }

  draw() {
    if (this.waiting) return;
    this.waiting = true;
    requestAnimationFrame(() => {
      this.waiting = false;
      this.renderer.render(this.scene, this.camera);
    });
  }
}

function triangle(a, b, c) { return b.clone().sub(a).cross(c.clone().sub(a)).length(); }
