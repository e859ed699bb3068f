/** Wakes of what moves through water, as the core has them (src/sow/core/water/wake.py). */
import { MOST_WAKES } from "../api/numbers";

export const WAKES = /* glsl */ `
uniform int uWakes;
uniform vec4 uWakeAt[${MOST_WAKES}]; // bow east and north, sine and cosine of its bearing
uniform vec4 uWakeSet[${MOST_WAKES}]; // length, breadth, speed, height of the bow wave

float wakeHeight(int i, vec2 p) {
  vec2 d = p - uWakeAt[i].xy;
  vec4 w = uWakeSet[i];
  float behind = -(d.x * uWakeAt[i].z + d.y * uWakeAt[i].w);
  float off = abs(d.x * uWakeAt[i].w - d.y * uWakeAt[i].z);
  float s = max(behind, 0.05);
  float slant = off / s;
  float a = clamp(slant, 1e-4, 0.353518);
  float root = sqrt(1.0 - 8.0 * a * a);
  float fades = sqrt(w.x / (s + w.x)) * clamp(behind / 0.4, 0.0, 1.0);
  if (fades <= 0.0) return 0.0;
  float over = max(slant - 0.353553, 0.0) * s / (0.25 * 0.640478 * w.z * w.z + 0.1);
  float swells = min(pow(max(1.0 - 8.0 * a * a, 1e-3), -0.25), 1.2);
  float most = 6.2831853 / (1.6 * w.y);
  float sum = 0.0;
  for (int j = 0; j < 2; j++) {
    float tangent = (1.0 + (j == 0 ? root : -root)) / (4.0 * a);
    float cosine = inversesqrt(1.0 + tangent * tangent);
    float k = 9.81 / (w.z * w.z * cosine * cosine);
    float phase = k * cosine * (s + off * tangent);
    sum += (j == 0 ? 0.6 : 0.4) * exp(-(k / most) * (k / most)) * cos(phase + 0.7853982);
  }
  return w.w * fades * swells * sum * exp(-over * over);
}

float wakeFoam(int i, vec2 p) {
  vec2 d = p - uWakeAt[i].xy;
  vec4 w = uWakeSet[i];
  float behind = -(d.x * uWakeAt[i].z + d.y * uWakeAt[i].w);
  float off = abs(d.x * uWakeAt[i].w - d.y * uWakeAt[i].z);
  float along = clamp(behind / w.x, 0.0, 1.0);
  float half_ = 0.5 * w.y * sqrt(clamp(4.0 * along * (1.0 - 0.75 * along), 0.0, 1.0));
  float beside = exp(-max(off - half_, 0.0) / (0.08 * w.y + 0.1));
  float hull = behind > -0.3 && behind < w.x * 1.02 ? 0.85 * beside : 0.0;
  float gone = max(behind - w.x, 0.0);
  float wide = w.y * (0.45 + 0.1 * pow(gone, 0.7));
  float trail = 1.6 * exp(-gone / (3.0 * w.z + 2.0)) * clamp((wide - off) / (0.4 * wide), 0.0, 1.0);
  if (behind < w.x) trail = 0.0;
  return min(max(hull, trail), 1.0) * min(w.z / 1.5, 1.0);
}

/** Height, slope east and north, and foam of all wakes. */
vec4 wakesAt(vec2 p) {
  vec4 sum = vec4(0.0);
  for (int i = 0; i < uWakes; i++) {
    vec2 d = p - uWakeAt[i].xy;
    float behind = -(d.x * uWakeAt[i].z + d.y * uWakeAt[i].w);
    float off = abs(d.x * uWakeAt[i].w - d.y * uWakeAt[i].z);
    if (behind >= -1.5 && off <= 0.4 * behind + 3.0 + uWakeSet[i].y) {
    float own = wakeHeight(i, p);
    sum.x += own;
    sum.y += (wakeHeight(i, p + vec2(0.06, 0.0)) - own) / 0.06;
    sum.z += (wakeHeight(i, p + vec2(0.0, 0.06)) - own) / 0.06;
    sum.w = max(sum.w, wakeFoam(i, p));
    }
  }
  return sum;
}
`;
