// A canvas with a camera around an assembly: turning, zooming, and rays under the pointer.
import { Color, OrthographicCamera, Raycaster, Scene, Vector2, Vector3, WebGLRenderer } from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

export class Stage {
  constructor(canvas) {
    this.canvas = canvas;
    this.renderer = new WebGLRenderer({ canvas, antialias: true, stencil: true, preserveDrawingBuffer: true });
    this.renderer.setClearColor(new Color("#f9fafc"));
    this.renderer.autoClear = false;
    this.scene = new Scene();
    this.camera = new OrthographicCamera(-1, 1, 1, -1, -100, 100);
    this.camera.up.set(0, 0, 1);
    this.scene.add(this.camera);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener("change", () => this.draw());
    this.raycaster = new Raycaster();
    new ResizeObserver(() => this.resize()).observe(canvas.parentElement);
    canvas.addEventListener("keydown", (e) => {
      const moves = { ArrowLeft: () => this.turn(0.15, 0), ArrowRight: () => this.turn(-0.15, 0), ArrowUp: () => this.turn(0, 0.15), ArrowDown: () => this.turn(0, -0.15),
        "+": () => this.zoom(1.2), "-": () => this.zoom(1 / 1.2), "0": () => this.home() };
      if (!moves[e.key]) return;
      moves[e.key]();
      e.preventDefault();
    });
  }

  /** The box that is looked at: its lower and upper corner in one list. */
  setExtent(box) {
    this.low = new Vector3(...box.slice(0, 3));
    this.high = new Vector3(...box.slice(3));
    this.centre = this.low.clone().add(this.high).multiplyScalar(0.5);
    this.size = this.high.clone().sub(this.low).length();
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

  /** What a ray through a point of the canvas meets, the nearest first. */
  hits(x, y, meshes) {
    const box = this.canvas.getBoundingClientRect();
    this.raycaster.setFromCamera(new Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2), this.camera);
    return this.raycaster.intersectObjects(meshes.filter((m) => m.visible), false);
  }

  draw() {
    if (this.waiting) return;
    this.waiting = true;
    requestAnimationFrame(() => {
      this.waiting = false;
      this.render();
    });
  }

  render() {
    this.renderer.clear();
    this.renderer.render(this.scene, this.camera);
  }
}
