import { OrthographicCamera, Vector3 } from "three";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { StageControls } from "./controls";

/** A canvas of 400 × 200 pixels that remembers its listeners. */
class Canvas {
  clientWidth = 400;
  clientHeight = 200;
  private listeners = new Map<string, Set<(e: unknown) => void>>();
  addEventListener(name: string, listener: (e: unknown) => void) {
    this.listeners.set(name, (this.listeners.get(name) ?? new Set()).add(listener));
  }
  removeEventListener(name: string, listener: (e: unknown) => void) {
    this.listeners.get(name)?.delete(listener);
  }
  setPointerCapture() {}
  getBoundingClientRect() {
    return { left: 10, top: 20, width: 400, height: 200 };
  }
  send(name: string, event: object) {
    [...(this.listeners.get(name) ?? [])].forEach((listener) => listener({ preventDefault() {}, ...event }));
  }
}

let canvas: Canvas;
let camera: OrthographicCamera;
let controls: StageControls;
const moved = vi.fn<(moving: boolean) => void>();

/** Where a point of the part is drawn, in pixels of the canvas. */
const pixel = (p: Vector3) => {
  const q = p.clone().project(camera);
  return [((q.x + 1) / 2) * 400, ((1 - q.y) / 2) * 200];
};

const drag = (from: [number, number], to: [number, number], how: object = {}) => {
  canvas.send("pointerdown", {
    button: 0,
    shiftKey: false,
    pointerId: 1,
    clientX: from[0],
    clientY: from[1],
    offsetX: from[0],
    offsetY: from[1],
    ...how,
  });
  canvas.send("pointermove", { clientX: to[0], clientY: to[1], offsetX: to[0], offsetY: to[1] });
  canvas.send("pointerup", {});
};

describe("the camera of the stage", () => {
  beforeEach(() => {
    vi.useFakeTimers();
    moved.mockClear();
    canvas = new Canvas();
    camera = new OrthographicCamera();
    controls = new StageControls(camera, canvas as unknown as HTMLElement, moved);
    controls.span = 100;
    controls.apply();
  });

  it("draws the target in the middle and as much as its span says", () => {
    const { right, up } = controls.axes();
    expect(pixel(controls.target)).toEqual([expect.closeTo(200), expect.closeTo(100)]);
    expect(controls.scale()).toBe(0.5);
    expect(pixel(right.clone().multiplyScalar(10))[0]).toBeCloseTo(220);
    expect(pixel(up.clone().multiplyScalar(10))[1]).toBeCloseTo(80);
  });

  it("moves the part along with the pointer", () => {
    const p = new Vector3(3, -4, 5);
    const before = pixel(p);
    drag([100, 100], [130, 85], { shiftKey: true });
    const after = pixel(p);
    expect([after[0] - before[0], after[1] - before[1]]).toEqual([expect.closeTo(30), expect.closeTo(-15)]);
  });

  it("turns about the target and keeps its axes square", () => {
    drag([100, 100], [180, 60]);
    const { right, up, back } = controls.axes();
    expect([right.dot(up), right.dot(back), up.dot(back)].map((d) => Math.abs(d) < 1e-12)).toEqual([true, true, true]);
    expect(pixel(controls.target)).toEqual([expect.closeTo(200), expect.closeTo(100)]);
    expect(back.length()).toBeCloseTo(1, 12);
  });

  it("turned there and back looks as before", () => {
    const direction = controls.direction.clone();
    controls.turn(0.4, 0);
    controls.turn(-0.4, 0);
    expect(controls.direction.distanceTo(direction)).toBeLessThan(1e-12);
  });

  it("zooms at the cursor: what lies under it stays", () => {
    // The canvas begins at 10, 20 of the page.
    const { right, up } = controls.axes();
    const under = right.clone().multiplyScalar(40).addScaledVector(up, 15);
    const [x, y] = pixel(under);
    canvas.send("wheel", { deltaY: -120, clientX: x + 10, clientY: y + 20 });
    expect(controls.span).toBeLessThan(100);
    expect(pixel(under)).toEqual([expect.closeTo(x), expect.closeTo(y)]);
    canvas.send("wheel", { deltaY: 120, clientX: x + 10, clientY: y + 20 });
    expect(controls.span).toBeCloseTo(100);
  });

  it("tells when it moves and when it has come to rest", () => {
    drag([0, 0], [5, 5]);
    expect(moved).toHaveBeenLastCalledWith(true);
    vi.advanceTimersByTime(250);
    expect(moved).not.toHaveBeenCalledWith(false);
    vi.advanceTimersByTime(100);
    expect(moved).toHaveBeenLastCalledWith(false);
  });

  it("does not come to rest in the hand", () => {
    canvas.send("pointerdown", { button: 0, clientX: 0, clientY: 0 });
    canvas.send("pointermove", { clientX: 5, clientY: 5 });
    vi.advanceTimersByTime(5000);
    expect(moved).not.toHaveBeenCalledWith(false);
    canvas.send("pointerup", {});
    vi.advanceTimersByTime(350);
    expect(moved).toHaveBeenLastCalledWith(false);
  });

  it("does not move when the pointer does not", () => {
    drag([50, 50], [50, 50]);
    expect(moved).not.toHaveBeenCalled();
  });

  it("leaves the main button to what is drawn", () => {
    const seen: string[] = [];
    controls.drawing = {
      start: (x, y) => seen.push(`start ${x} ${y}`),
      move: (x, y) => seen.push(`move ${x} ${y}`),
      end: () => seen.push("end"),
    };
    const direction = controls.direction.clone();
    drag([10, 20], [30, 40]);
    expect(seen).toEqual(["start 10 20", "move 30 40", "end"]);
    expect(controls.direction.equals(direction)).toBe(true);

    // The right button still turns.
    drag([10, 20], [30, 40], { button: 2 });
    expect(seen).toHaveLength(3);
    expect(controls.direction.equals(direction)).toBe(false);
  });
});
