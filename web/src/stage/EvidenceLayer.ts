import { BufferAttribute, BufferGeometry, Color, Group, type Matrix4, Points, ShaderMaterial, Vector3 } from "three";
import { LineMaterial } from "three/examples/jsm/lines/LineMaterial.js";
import { LineSegments2 } from "three/examples/jsm/lines/LineSegments2.js";
import { LineSegmentsGeometry } from "three/examples/jsm/lines/LineSegmentsGeometry.js";
import type { Schemas } from "../api/client";
import { residualScale, residualStops } from "./residuals";

export type Evidence = Schemas["StageEvidence"];

/**
 * The measured features as thin lines, and the points a value rests on: used ones as fine dots or coloured by their residuals,
 * left out ones hollow, those without counterpart crossed, places not measured as squares.
 */
export class EvidenceLayer {
  readonly group = new Group();
  private readonly points: Points<BufferGeometry, ShaderMaterial>;
  private readonly lines: LineSegments2;

  /**
   * @param positions Of the scan, in its own coordinates.
   * @param place Scan to nominal.
   * @param dots The used points are shown as well.
   * @param residuals Of the used points: they are shown in their colours.
   */
  constructor(
    evidence: Evidence,
    positions: Float32Array,
    place: Matrix4,
    dots: boolean,
    residuals: readonly number[] | null = null,
  ) {
    const at: number[] = [];
    const symbol: number[] = [];
    const p = new Vector3();
    const add = (vertices: readonly number[], kind: number) =>
      vertices.forEach((v) => {
        p.fromArray(positions, 3 * v).applyMatrix4(place);
        at.push(p.x, p.y, p.z);
        symbol.push(kind);
      });
    if (residuals) {
      add(evidence.used, 4);
    } else if (dots) {
      add(evidence.used, 0);
    }

    add(evidence.leftOut, 1);
    add(evidence.unmatched, 2);
    at.push(...evidence.missing);
    symbol.push(...Array.from({ length: evidence.missing.length / 3 }, () => 3));
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(new Float32Array(at), 3));
    const scale = residuals ? residualScale(residuals) : 1;
    const values = new Float32Array(symbol.length);
    residuals?.forEach((r, i) => (values[i] = Math.max(-1, Math.min(1, r / scale))));
    geometry.setAttribute("value", new BufferAttribute(values, 1));
    geometry.setAttribute("symbol", new BufferAttribute(new Float32Array(symbol), 1));
    this.points = new Points(geometry, material());
    const outline = new LineSegmentsGeometry();
    const pairs = evidence.outlines.flatMap(segments);
    // Seen through the part: an axis lies inside it.
    this.lines = new LineSegments2(outline, new LineMaterial({ color: 0x33427a, linewidth: 2, depthTest: false }));
    this.lines.renderOrder = 2;
    this.group.add(this.points);
    if (pairs.length > 0) {
      outline.setPositions(pairs);
      this.group.add(this.lines);
    }
  }

  dispose() {
    this.points.geometry.dispose();
    this.points.material.dispose();
    this.lines.geometry.dispose();
    this.lines.material.dispose();
  }
}

/** A polyline as pairs of ends. */
const segments = (line: readonly number[]): number[] =>
  Array.from({ length: line.length / 3 - 1 }, (_, i) => line.slice(3 * i, 3 * i + 6)).flat();

function material(): ShaderMaterial {
  return new ShaderMaterial({
    transparent: true,
    uniforms: {
      ink: { value: new Color(0x1f2933) },
      brass: { value: new Color(0xb8862f) },
      bad: { value: new Color(0xa3292f) },
      ramp: { value: residualStops.map(([r, g, b]) => new Color(r / 255, g / 255, b / 255)) },
      ratio: { value: Math.min(2, devicePixelRatio) },
    },
    vertexShader: `
attribute float symbol;
attribute float value;
uniform float ratio;
varying float vSymbol;
varying float vValue;
void main() {
  vSymbol = symbol;
  vValue = value;
  gl_PointSize = ratio * (symbol < 0.5 ? 2.0 : symbol < 2.5 ? 9.0 : symbol < 3.5 ? 6.0 : 5.0);
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  // A little before the surface that the points lie on.
  gl_Position.z -= 0.002 * gl_Position.w;
}`,
    fragmentShader: `
uniform vec3 ink, brass, bad;
uniform vec3 ramp[3];
varying float vSymbol;
varying float vValue;
void main() {
  vec2 q = 2.0 * gl_PointCoord - 1.0;
  if (vSymbol < 0.5) {
    gl_FragColor = vec4(ink, 0.55);
  } else if (vSymbol < 1.5) {
    float r = length(q);
    if (r > 1.0 || r < 0.55) discard;
    gl_FragColor = vec4(ink, 1.0);
  } else if (vSymbol < 2.5) {
    if (min(abs(q.x - q.y), abs(q.x + q.y)) > 0.4) discard;
    gl_FragColor = vec4(bad, 1.0);
  } else if (vSymbol < 3.5) {
    if (max(abs(q.x), abs(q.y)) < 0.45) discard;
    gl_FragColor = vec4(brass, 1.0);
  } else {
    gl_FragColor = vec4(mix(ramp[1], vValue < 0.0 ? ramp[0] : ramp[2], abs(vValue)), 1.0);
  }
}`,
  });
}
