// Counts what a page gives to the renderer: bytes that it holds, and of each frame the draw calls
// and the bytes that are sent. Loaded before the page's own scripts.
(() => {
  const gl = WebGL2RenderingContext.prototype;
  const BYTES = {
    [gl.R8]: 1, [gl.RG8]: 2, [gl.RGB8]: 3, [gl.RGBA8]: 4, [gl.SRGB8_ALPHA8]: 4, [gl.RGBA]: 4,
    [gl.RGB]: 3, [gl.RED]: 1, [gl.R16F]: 2, [gl.RG16F]: 4, [gl.RGBA16F]: 8, [gl.R32F]: 4,
    [gl.RG32F]: 8, [gl.RGBA32F]: 16, [gl.R11F_G11F_B10F]: 4, [gl.RGB10_A2]: 4, [gl.R16UI]: 2,
    [gl.R32UI]: 4, [gl.RGBA8UI]: 4, [gl.DEPTH_COMPONENT16]: 2, [gl.DEPTH_COMPONENT24]: 4,
    [gl.DEPTH_COMPONENT32F]: 4, [gl.DEPTH24_STENCIL8]: 4,
  };
  const held = new Map(); // what is held: a texture, a buffer, a level of one
  const bound = new Map();
  const count = { calls: 0, sent: 0, unknown: 0 };
  const cube = (target) =>
    target >= gl.TEXTURE_CUBE_MAP_POSITIVE_X && target <= gl.TEXTURE_CUBE_MAP_NEGATIVE_Z
      ? gl.TEXTURE_CUBE_MAP : target;
  const sizeOf = (format) => {
    if (!(format in BYTES)) count.unknown++;
    return BYTES[format] ?? 4;
  };
  const keep = (target, part, bytes) => {
    const thing = bound.get(cube(target));
    if (!thing) return;
    if (!held.has(thing)) held.set(thing, new Map());
    held.get(thing).set(part, bytes);
  };
  const before = (name, note) => {
    const own = gl[name];
    gl[name] = function (...given) {
      note(...given);
      return own.apply(this, given);
    };
  };
  for (const name of ["bindTexture", "bindBuffer", "bindRenderbuffer"])
    before(name, (target, thing) => bound.set(target, thing));
  for (const name of ["deleteTexture", "deleteBuffer", "deleteRenderbuffer"])
    before(name, (thing) => held.delete(thing));
  const levels = (n) => { let sum = 0; for (let k = 0; k < n; k++) sum += 0.25 ** k; return sum; };
  before("texStorage2D", (target, n, format, w, h) =>
    keep(target, 0, sizeOf(format) * w * h * levels(n) * (target === gl.TEXTURE_CUBE_MAP ? 6 : 1)));
  before("texStorage3D", (target, n, format, w, h, d) =>
    keep(target, 0, sizeOf(format) * w * h * d * levels(n)));
  before("texImage2D", (target, level, format, w, h) => {
    if (typeof h === "number") keep(target, `${target} ${level}`, sizeOf(format) * w * h);
  });
  before("texImage3D", (target, level, format, w, h, d) =>
    keep(target, level, sizeOf(format) * w * h * d));
  before("renderbufferStorage", (target, format, w, h) => keep(target, 0, sizeOf(format) * w * h));
  before("renderbufferStorageMultisample", (target, n, format, w, h) =>
    keep(target, 0, sizeOf(format) * w * h * Math.max(1, n)));
  before("bufferData", (target, data) => {
    const bytes = typeof data === "number" ? data : data?.byteLength ?? 0;
    keep(target, 0, bytes);
    if (typeof data !== "number") count.sent += bytes;
  });
  before("bufferSubData", (target, at, data, from, length) => {
    count.sent += length ? length * (data.BYTES_PER_ELEMENT ?? 1) : data.byteLength;
  });
  const sends = (name) => before(name, (...given) => {
    const data = given.at(-1);
    const last = typeof data === "number" ? given.at(-2) : data;
    if (last?.byteLength) count.sent += last.byteLength;
    else if (last?.width) count.sent += 4 * last.width * last.height;
  });
  for (const name of ["texSubImage2D", "texSubImage3D"]) sends(name);
  for (const name of ["drawArrays", "drawElements", "drawArraysInstanced", "drawElementsInstanced",
    "drawRangeElements"]) before(name, () => { count.calls++; });
  window.card = {
    count,
    held: () => {
      let sum = 0;
      for (const parts of held.values()) for (const bytes of parts.values()) sum += bytes;
      return sum;
    },
  };
})();
