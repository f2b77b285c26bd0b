// The map of a report, alone in its file: turned with the mouse or the arrow keys, read under the pointer, held to limits.
(async () => {
  const meta = JSON.parse(document.getElementById("map-meta").textContent);
  const packed = Uint8Array.from(atob(document.getElementById("map-data").textContent.trim()), (c) => c.charCodeAt(0));
  const stream = new Blob([packed]).stream().pipeThrough(new DecompressionStream("deflate"));
  const raw = await new Response(stream).arrayBuffer();
  const { vertices: n, corners, low, step, valueStep, noData } = meta;
  const places = new Uint16Array(raw, 0, 3 * n), quantised = new Int16Array(raw, 6 * n, n);
  const behind = new Uint8Array(raw, 8 * n);
  const position = new Float32Array(3 * n), value = new Float32Array(n), index = new Uint32Array(corners);
  for (let i = 3; i < 3 * n; i++) places[i] += places[i - 3];
  for (let i = 0; i < 3 * n; i++) position[i] = low[i % 3] + step[i % 3] * places[i];
  for (let i = 0; i < n; i++) value[i] = quantised[i] === noData ? 1e9 : quantised[i] * valueStep;
  for (let i = 0, at = 0, newest = -1; i < corners; i++) {
    let code = 0, shift = 0;
    do code |= (behind[at] & 0x7f) << shift, (shift += 7); while (behind[at++] & 0x80);
    index[i] = code === 0 ? ++newest : newest + 1 - code;
  }

  const box = document.getElementById("map"), canvas = box.querySelector("canvas"), said = document.getElementById("map-said");
  const gl = canvas.getContext("webgl2", { antialias: true });
  if (!gl) {
    said.textContent = "This browser draws no 3D; the figures below show the same map.";
    return;
  }

  const shader = (type, text) => {
    const s = gl.createShader(type);
    gl.shaderSource(s, text);
    gl.compileShader(s);
    return s;
  };
  const program = gl.createProgram();
  gl.attachShader(program, shader(gl.VERTEX_SHADER, `#version 300 es
    in vec3 position; in float value; uniform mat3 turn; uniform vec3 middle; uniform vec2 scale, shift; uniform float depth;
    out float v; out vec3 at;
    void main() { at = turn * (position - middle); v = value; gl_Position = vec4(at.xy * scale + shift, -at.z * depth, 1.0); }`));
  gl.attachShader(program, shader(gl.FRAGMENT_SHADER, `#version 300 es
    precision highp float; in float v; in vec3 at; uniform sampler2D ramp; uniform vec2 range, limits; uniform bool hideWithin; out vec4 colour;
    void main() {
      vec3 c; ivec2 p = ivec2(gl_FragCoord.xy);
      if (v > 1e8) c = (p.x % 5 == 0 && p.y % 5 == 0) ? vec3(0.12, 0.16, 0.2) : vec3(0.71, 0.73, 0.75);
      else {
        bool high = v > limits.y, low = v < limits.x;
        c = texture(ramp, vec2((v - range.x) / (range.y - range.x), 0.5)).rgb;
        if (hideWithin && !high && !low) c = vec3(0.89, 0.88, 0.86);
        if ((high && (p.x + p.y) % 9 < 3) || (low && (p.x + 8 * p.y) % 9 < 3)) c *= 0.55;
      }
      vec3 n = normalize(cross(dFdx(at), dFdy(at)));
      colour = vec4(c * (0.42 + 0.58 * abs(n.z)), 1.0);
    }`));
  gl.linkProgram(program);
  gl.useProgram(program);
  const feed = (name, data, size) => {
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ARRAY_BUFFER, data, gl.STATIC_DRAW);
    const at = gl.getAttribLocation(program, name);
    gl.enableVertexAttribArray(at);
    gl.vertexAttribPointer(at, size, gl.FLOAT, false, 0, 0);
  };
  feed("position", position, 3);
  feed("value", value, 1);
  gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, index, gl.STATIC_DRAW);
  gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
  gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGB, meta.ramp.length / 3, 1, 0, gl.RGB, gl.UNSIGNED_BYTE, new Uint8Array(meta.ramp));
  for (const [k, to] of [[gl.TEXTURE_MIN_FILTER, gl.LINEAR], [gl.TEXTURE_MAG_FILTER, gl.LINEAR], [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE]])
    gl.texParameteri(gl.TEXTURE_2D, k, to);
  gl.enable(gl.DEPTH_TEST);
  gl.clearColor(0.97, 0.957, 0.933, 1);

  const middle = low.map((l, k) => l + (step[k] * 65535) / 2), reach = Math.hypot(...step.map((s) => s * 65535)) / 2;
  const of = (name) => gl.getUniformLocation(program, name);
  const view = { yaw: 0.67, pitch: 0.61, zoom: 1, x: 0, y: 0 };
  const field = (id) => document.getElementById(id);
  const limits = () => [Number(field("map-lower").value), Number(field("map-upper").value)];
  const matrix = () => {
    const [cy, sy, cp, sp] = [Math.cos(view.yaw), Math.sin(view.yaw), Math.cos(view.pitch), Math.sin(view.pitch)];
    return [cy, -sp * sy, sy * cp, sy, sp * cy, -cy * cp, 0, cp, sp];
  };
  const scale = () => [(view.zoom * canvas.height) / (reach * canvas.width), view.zoom / reach];
  let asked = false;
  const draw = () => {
    asked = false;
    [canvas.width, canvas.height] = [box.clientWidth * devicePixelRatio, canvas.clientHeight * devicePixelRatio];
    gl.viewport(0, 0, canvas.width, canvas.height);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    gl.uniformMatrix3fv(of("turn"), false, matrix());
    gl.uniform3fv(of("middle"), middle);
    gl.uniform2fv(of("scale"), scale());
    gl.uniform2f(of("shift"), view.x, view.y);
    gl.uniform1f(of("depth"), 0.5 / reach);
    gl.uniform2fv(of("range"), meta.range);
    gl.uniform2fv(of("limits"), limits());
    gl.uniform1i(of("hideWithin"), field("map-hide").checked ? 1 : 0);
    gl.drawElements(gl.TRIANGLES, corners, gl.UNSIGNED_INT, 0);
    box.dataset.drawn = "true";
  };
  const again = () => {
    if (!asked) {
      asked = true;
      requestAnimationFrame(draw);
    }
  };
  /** The vertex nearest to the eye under the pointer: the nearest on the screen within some pixels. */
  const under = (px, py) => {
    const m = matrix(), [sx, sy] = scale(), near = (2 * 7 * devicePixelRatio) / canvas.height;
    const x = (2 * px) / canvas.clientWidth - 1 - view.x, y = 1 - (2 * py) / canvas.clientHeight - view.y;
    let best = -1, front = -Infinity;
    for (let i = 0; i < n; i++) {
      const [a, b, c] = [position[3 * i] - middle[0], position[3 * i + 1] - middle[1], position[3 * i + 2] - middle[2]];
      const dx = (m[0] * a + m[3] * b + m[6] * c) * sx - x, dy = (m[1] * a + m[4] * b + m[7] * c) * sy - y;
      if (Math.abs(dx) < near && Math.abs(dy) < near) {
        const z = m[2] * a + m[5] * b + m[8] * c;
        if (z > front) [best, front] = [i, z];
      }
    }
    return best;
  };
  canvas.addEventListener("pointermove", (e) => {
    if (e.buttons === 0) {
      const i = under(e.offsetX, e.offsetY);
      said.textContent = i < 0 ? meta.says
        : value[i] > 1e8 ? "no data here"
        : `${value[i] >= 0 ? "+" : "−"}${Math.abs(value[i]).toFixed(3)} mm at ${[0, 1, 2].map((k) => position[3 * i + k].toFixed(1)).join(", ")}`;
    } else if (e.shiftKey || e.buttons === 2) {
      view.x += (2 * e.movementX) / canvas.clientWidth;
      view.y -= (2 * e.movementY) / canvas.clientHeight;
      again();
    } else {
      view.yaw -= e.movementX * 0.008;
      view.pitch = Math.max(-1.57, Math.min(1.57, view.pitch + e.movementY * 0.008));
      again();
    }
  });
  canvas.addEventListener("contextmenu", (e) => e.preventDefault());
  canvas.addEventListener("wheel", (e) => {
    e.preventDefault();
    view.zoom *= Math.exp(-e.deltaY / 600);
    again();
  }, { passive: false });
  canvas.addEventListener("keydown", (e) => {
    const by = { ArrowLeft: ["yaw", -0.1], ArrowRight: ["yaw", 0.1], ArrowUp: ["pitch", -0.1], ArrowDown: ["pitch", 0.1] }[e.key];
    if (by) {
      e.preventDefault();
      view[by[0]] += by[1];
      again();
    }
  });
  for (const id of ["map-lower", "map-upper", "map-hide"]) field(id).addEventListener("input", again);
  addEventListener("resize", again);
  said.textContent = meta.says;
  draw();
})();
