import {
  Color,
  ColorManagement,
  DataTexture,
  DoubleSide,
  FloatType,
  NearestFilter,
  RedFormat,
  ShaderMaterial,
  Vector3,
} from "three";
import { centre, ramps, type Scale } from "./ramp";

// Colours are the design\'s own screen values; nothing here is lit physically.
ColorManagement.enabled = false;

/** Scan: grey, or the deviation ramp with a hatch beyond tolerance and dots where there is no data. Lit from the eye. */
export function scanMaterial(): ShaderMaterial {
  return new ShaderMaterial({
    side: DoubleSide,
    uniforms: {
      lower: { value: -0.2 },
      centre: { value: 0 },
      upper: { value: 0.2 },
      binds: { value: [true, true] },
      steps: { value: 0 },
      stops: { value: colours("blue-rust") },
      hideWithin: { value: false },
      seeThrough: { value: false },
      alpha: { value: 1 },
      eye: { value: new Vector3(0, 0, 1) },
      base: { value: new Color(0xb4bac0) },
      mark: { value: new Color(0xb8862f) },
    },
    vertexShader: `
attribute float deviation;
attribute float marked;
varying float vDeviation;
varying float vMarked;
varying vec3 vNormal;
void main() {
  vDeviation = deviation;
  vMarked = marked;
  // The points of a bare cloud have no normal.
  vNormal = dot(normal, normal) > 0.0 ? normalize(mat3(modelMatrix) * normal) : vec3(0.0);
  gl_PointSize = 2.0;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`,
    fragmentShader: `
uniform float lower, centre, upper, steps, alpha;
uniform bool hideWithin, seeThrough;
uniform bool binds[2];
uniform vec3 stops[5];
uniform vec3 eye, base, mark;
varying float vDeviation;
varying float vMarked;
varying vec3 vNormal;
vec3 ramp(float d) {
  float t = clamp((d - centre) / (d < centre ? centre - lower : upper - centre), -1.0, 1.0);
  if (steps > 0.0) t = (t < 0.0 ? -1.0 : 1.0) * (min(steps - 1.0, floor(abs(t) * steps)) + 0.5) / steps;
  if (t < -0.5) return mix(stops[0], stops[1], 2.0 * (t + 1.0));
  if (t < 0.0) return mix(stops[1], stops[2], 2.0 * (t + 0.5));
  if (t < 0.5) return mix(stops[2], stops[3], 2.0 * t);
  return mix(stops[3], stops[4], 2.0 * (t - 0.5));
}
void main() {
  float square = dot(vNormal, vNormal);
  float shade = square < 0.25 ? 0.7 : 0.42 + 0.58 * abs(dot(vNormal, eye)) * inversesqrt(square);
  vec3 color = base;
#ifdef SHOW_DEVIATION
    ivec2 p = ivec2(gl_FragCoord.xy);
    bool above = binds[1] && vDeviation > upper;
    // A fine grid, of which the near side has one half and the far side the other: both show without any order of drawing.
    bool beyond = vDeviation < 1e8 && (above || (binds[0] && vDeviation < lower));
    if (seeThrough && !beyond && ((p.x + p.y) % 2 == 0) != gl_FrontFacing) discard;
    if (vDeviation > 1e10) {
      // Nothing was asked here.
    } else if (vDeviation > 1e8) {
      color = (p.x % 5 == 0 && p.y % 5 == 0) ? vec3(0.12, 0.16, 0.2) : base;
    } else if (above || (binds[0] && vDeviation < lower)) {
      color = ramp(vDeviation);
      // The hatch leans with the side, so that the ends can be told apart without colour.
      if ((p.x + (above ? 9000 - p.y : p.y)) % 9 < 3) color *= 0.55;
    } else {
      color = hideWithin ? vec3(0.894, 0.886, 0.863) : ramp(vDeviation);
    }
#endif
  if (vMarked > 0.5) color = mix(color, mark, 0.8);
  gl_FragColor = vec4(shade * color, alpha);
}`,
  });
}

/** Whether a scan is coloured: a program of its own each, as drawing without a card takes both sides of every condition. */
export function showDeviation(material: ShaderMaterial, shown: boolean) {
  if ("SHOW_DEVIATION" in material.defines !== shown) {
    material.defines = shown ? { SHOW_DEVIATION: "" } : {};
    material.needsUpdate = true;
  }
}

/** Colours a scan material by a scale. */
export function setScale({ uniforms }: ShaderMaterial, scale: Scale) {
  uniforms.lower.value = scale.lower;
  uniforms.centre.value = centre(scale);
  uniforms.upper.value = scale.upper;
  uniforms.binds.value = [scale.lowerBinds, scale.upperBinds];
  uniforms.steps.value = scale.ramp.steps ?? 0;
  uniforms.stops.value = colours(scale.ramp.kind);
}

const colours = (kind: Scale["ramp"]["kind"]) => ramps[kind].stops.map((c) => new Vector3(...c).divideScalar(255));

/** Patches: grey with dots, as everything that was not measured. */
export function patchMaterial(): ShaderMaterial {
  return new ShaderMaterial({
    side: DoubleSide,
    uniforms: { eye: { value: new Vector3(0, 0, 1) }, base: { value: new Color(0xb4bac0) } },
    vertexShader: `
varying vec3 vNormal;
void main() {
  vNormal = normalize(mat3(modelMatrix) * normal);
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`,
    fragmentShader: `
uniform vec3 eye, base;
varying vec3 vNormal;
void main() {
  ivec2 p = ivec2(gl_FragCoord.xy);
  vec3 color = (p.x % 5 == 0 && p.y % 5 == 0) ? vec3(0.12, 0.16, 0.2) : base;
  gl_FragColor = vec4((0.42 + 0.58 * abs(dot(normalize(vNormal), eye))) * color, 1.0);
}`,
  });
}

/** Nominal: an indigo veil; faces are marked through a small table (0 plain, 1 under the cursor, 2 chosen). */
export function nominalMaterial(faces: number): { material: ShaderMaterial; states: Float32Array; table: DataTexture } {
  const states = new Float32Array(Math.max(1, faces));
  const table = new DataTexture(states, states.length, 1, RedFormat, FloatType);
  table.minFilter = table.magFilter = NearestFilter;
  table.needsUpdate = true;
  const material = new ShaderMaterial({
    side: DoubleSide,
    transparent: true,
    // Marked faces lie before a scan that scatters about them, or they would flicker through it.
    polygonOffset: true,
    polygonOffsetFactor: -1,
    polygonOffsetUnits: -2000,
    uniforms: {
      table: { value: table },
      faces: { value: states.length },
      eye: { value: new Vector3(0, 0, 1) },
      alpha: { value: 0.25 },
      // How strongly marked faces show.
      veil: { value: 0.8 },
      tint: { value: new Color(0xa9b1d0) },
    },
    vertexShader: `
uniform sampler2D table;
uniform float faces, alpha, veil;
uniform vec3 tint;
attribute float face;
flat varying vec4 vColor;
varying vec3 vWorld;
void main() {
  float state = texture2D(table, vec2((face + 0.5) / faces, 0.5)).r;
  vec3 color = state > 1.5 ? vec3(0.722, 0.525, 0.184) : state > 0.5 ? vec3(0.36, 0.44, 0.72) : tint;
  vColor = alpha == 0.0 && state < 1.5 ? vec4(-1.0) : vec4(color, state > 0.5 ? max(alpha, veil) : alpha);
  vec4 world = modelMatrix * vec4(position, 1.0);
  vWorld = world.xyz;
  gl_Position = projectionMatrix * viewMatrix * world;
}`,
    fragmentShader: `
uniform vec3 eye;
flat varying vec4 vColor;
varying vec3 vWorld;
void main() {
  if (vColor.a < 0.0) discard;
  vec3 n = normalize(cross(dFdx(vWorld), dFdy(vWorld)));
  gl_FragColor = vec4((0.45 + 0.55 * abs(dot(n, eye))) * vColor.rgb, vColor.a);
}`,
  });
  return { material, states, table };
}
