import { OrthographicCamera, Quaternion, Vector3 } from "three";

/** Takes over what the main button does on the stage: drawing a selection. Positions are CSS pixels of the canvas. */
export interface Drawing {
  start(x: number, y: number): void;
  move(x: number, y: number): void;
  end(): void;
}

/** ms without movement after which the stage is drawn in full detail. */
const SETTLED = 300;

/**
 * Turns, moves and zooms an orthographic camera about a target. Drag turns, right drag or Shift drag moves, the wheel
 * zooms at the cursor. While something is drawn, the right button turns and with Shift moves.
 */
export class StageControls {
  readonly target = new Vector3();
  direction = new Vector3(-0.55, -0.7, 0.6).normalize();
  up = new Vector3(0, 0, 1);
  span = 200;
  /** Half the depth range, from the size of what is shown. */
  reach = 1000;
  drawing: Drawing | null = null;
  private settle: ReturnType<typeof setTimeout> | undefined;
  private held = false;

  constructor(
    private readonly camera: OrthographicCamera,
    private readonly element: HTMLElement,
    private readonly moved: (moving: boolean) => void,
  ) {
    element.addEventListener("pointerdown", this.down);
    element.addEventListener("wheel", this.wheel, { passive: false });
    element.addEventListener("contextmenu", (e) => e.preventDefault());
  }

  axes(): { right: Vector3; up: Vector3; back: Vector3 } {
    const back = this.direction.clone().normalize();
    const up = this.up.clone().addScaledVector(back, -this.up.dot(back)).normalize();
    return { right: up.clone().cross(back), up, back };
  }

  apply() {
    const { up, back } = this.axes();
    const aspect = this.element.clientWidth / Math.max(1, this.element.clientHeight);
    this.up.copy(up);
    this.camera.position.copy(this.target).addScaledVector(back, this.reach);
    this.camera.up.copy(up);
    this.camera.lookAt(this.target);
    this.camera.top = this.span / 2;
    this.camera.bottom = -this.span / 2;
    this.camera.right = (this.span * aspect) / 2;
    this.camera.left = -this.camera.right;
    this.camera.near = 0;
    this.camera.far = 2 * this.reach;
    this.camera.updateProjectionMatrix();
    this.camera.updateMatrixWorld();
  }

  /** Millimetres a pixel. */
  scale = () => this.span / Math.max(1, this.element.clientHeight);

  turn(dx: number, dy: number) {
    const { right, up } = this.axes();
    const q = new Quaternion().setFromAxisAngle(up, -dx).multiply(new Quaternion().setFromAxisAngle(right, -dy));
    this.direction.applyQuaternion(q).normalize();
    this.up.applyQuaternion(q).normalize();
  }

  private changed() {
    this.apply();
    this.moved(true);
    this.settled();
  }

  /** Full detail comes back when the hand has let go: drawn between two movements it would only hold up the next. */
  private settled() {
    clearTimeout(this.settle);
    if (!this.held) {
      this.settle = setTimeout(() => this.moved(false), SETTLED);
    }
  }

  private down = (e: PointerEvent) => {
    if (this.drawing && e.button === 0) {
      this.draw(this.drawing, e);
      return;
    }

    const pan = this.drawing ? e.shiftKey : e.button === 2 || e.shiftKey;
    let [x, y] = [e.clientX, e.clientY];
    this.element.setPointerCapture(e.pointerId);
    const move = (m: PointerEvent) => {
      const [dx, dy] = [m.clientX - x, m.clientY - y];
      if (dx === 0 && dy === 0) {
        return;
      }

      [x, y] = [m.clientX, m.clientY];
      if (pan) {
        const { right, up } = this.axes();
        this.target.addScaledVector(right, -dx * this.scale()).addScaledVector(up, dy * this.scale());
      } else {
        this.turn(dx * 0.007, dy * 0.007);
      }

      this.held = true;
      this.changed();
    };
    const done = () => {
      this.element.removeEventListener("pointermove", move);
      this.element.removeEventListener("pointerup", done);
      this.element.removeEventListener("pointercancel", done);
      if (this.held) {
        this.held = false;
        this.settled();
      }
    };
    this.element.addEventListener("pointermove", move);
    this.element.addEventListener("pointerup", done);
    this.element.addEventListener("pointercancel", done);
  };

  private draw(drawing: Drawing, e: PointerEvent) {
    this.element.setPointerCapture(e.pointerId);
    drawing.start(e.offsetX, e.offsetY);
    const move = (m: PointerEvent) => drawing.move(m.offsetX, m.offsetY);
    const done = () => {
      this.element.removeEventListener("pointermove", move);
      this.element.removeEventListener("pointerup", done);
      this.element.removeEventListener("pointercancel", done);
      drawing.end();
    };
    this.element.addEventListener("pointermove", move);
    this.element.addEventListener("pointerup", done);
    this.element.addEventListener("pointercancel", done);
  }

  private wheel = (e: WheelEvent) => {
    e.preventDefault();
    const factor = Math.exp(Math.sign(e.deltaY) * Math.min(0.3, Math.abs(e.deltaY) / 500));
    const box = this.element.getBoundingClientRect();
    const { right, up } = this.axes();
    const dx = (e.clientX - box.left - box.width / 2) * this.scale();
    const dy = (box.height / 2 - (e.clientY - box.top)) * this.scale();
    this.target.addScaledVector(right, dx * (1 - factor)).addScaledVector(up, dy * (1 - factor));
    this.span *= factor;
    this.changed();
  };
}
