/** The page's shaders as text, for the test that runs their functions beside the core's. */
import { COMMON, DEVELOP } from "../../src/view/glsl";
import { LOOK } from "../../src/view/groundLook";
import { ICE } from "../../src/view/iceShader";
import { IN_AIR } from "../../src/view/inAir";
import { AIR } from "../../src/view/light";
import * as plants from "../../src/view/plantsShader";
import { SWASH } from "../../src/view/swashShader";
import { WAKES } from "../../src/view/wakeShader";
import * as water from "../../src/view/waterShader";
import { WAVES } from "../../src/view/waveShader";

export const texts = [
  COMMON,
  DEVELOP,
  LOOK,
  ICE,
  IN_AIR,
  AIR,
  plants.VERTEX,
  plants.FRAGMENT,
  SWASH,
  WAKES,
  WAVES,
  water.FRAGMENT,
];

type Value = number | number[];

/** Runs a fragment shader on inputs (four numbers each) into a float target; four numbers each. */
export function run(source: string, inputs: number[], values: Record<string, Value>): number[] {
  const gl = document.createElement("canvas").getContext("webgl2")!;
  if (!gl.getExtension("EXT_color_buffer_float")) throw new Error("no float targets here");
  const count = inputs.length / 4;
  const vertex = `#version 300 es
    void main() { vec2 p = vec2(gl_VertexID & 1, gl_VertexID >> 1) * 4.0 - 1.0;
      gl_Position = vec4(p, 0.0, 1.0); }`;
  const program = gl.createProgram();
  for (const [kind, text] of [
    [gl.VERTEX_SHADER, vertex],
    [gl.FRAGMENT_SHADER, source],
  ] as const) {
    const shader = gl.createShader(kind)!;
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS))
      throw new Error(gl.getShaderInfoLog(shader)!);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS))
    throw new Error(gl.getProgramInfoLog(program)!);
  gl.useProgram(program);
  const texture = (data: Float32Array | null) => {
    const made = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, made);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA32F, count, 1, 0, gl.RGBA, gl.FLOAT, data);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    return made;
  };
  const target = texture(null);
  texture(new Float32Array(inputs));
  gl.bindFramebuffer(gl.FRAMEBUFFER, gl.createFramebuffer());
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target, 0);
  for (let i = 0; i < gl.getProgramParameter(program, gl.ACTIVE_UNIFORMS); i++) {
    const { name, type } = gl.getActiveUniform(program, i)!;
    const value = values[name.replace("[0]", "")];
    if (value === undefined) continue;
    const at = gl.getUniformLocation(program, name);
    const list = typeof value === "number" ? [value] : value;
    if (type === gl.INT) gl.uniform1iv(at, list);
    else if (type === gl.FLOAT) gl.uniform1fv(at, list);
    else if (type === gl.FLOAT_VEC2) gl.uniform2fv(at, list);
    else if (type === gl.FLOAT_VEC3) gl.uniform3fv(at, list);
    else gl.uniform4fv(at, list);
  }
  gl.viewport(0, 0, count, 1);
  gl.drawArrays(gl.TRIANGLES, 0, 3);
  const found = new Float32Array(count * 4);
  gl.readPixels(0, 0, count, 1, gl.RGBA, gl.FLOAT, found);
  return Array.from(found);
}
