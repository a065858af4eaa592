import { ENVIRONMENTS, type Environment, type EnvironmentName } from '@estela/core';

const unit = (v: readonly number[]): number[] => v.map((c) => c / Math.hypot(...v));

/** Hands an environment to the program in use. */
export function setLight(
  gl: WebGL2RenderingContext,
  locationOf: (name: string) => WebGLUniformLocation | null,
  name: EnvironmentName,
): void {
  const { above, level, below, lobes, key }: Environment = ENVIRONMENTS[name];
  gl.uniform3fv(locationOf('stage_ambient'), [...above, ...level, ...below]);
  gl.uniform3fv(
    locationOf('stage_lobe_towards'),
    lobes.flatMap((l) => unit(l.towards)),
  );
  gl.uniform4fv(
    locationOf('stage_lobe_light'),
    lobes.flatMap((l) => [...l.light, l.sharpness]),
  );
  gl.uniform3fv(locationOf('stage_key_towards'), unit(key.towards));
  gl.uniform3fv(locationOf('stage_key_light'), key.light as unknown as number[]);
}

/**
 * The environment in GLSL. `blur` 0..1 is the roughness it is seen by: gradients and lobes grow wider and keep their
 * energy (a spherical Gaussian of sharpness k widened by a kernel of variance s has sharpness k / (1 + k s)).
 */
export const ENVIRONMENT_GLSL = `uniform vec3 stage_ambient[3];
uniform vec3 stage_lobe_towards[2];
uniform vec4 stage_lobe_light[2];
uniform vec3 stage_key_towards;
uniform vec3 stage_key_light;
vec3 stage_environment(vec3 towards, float blur) {
  float wide = 0.25 + 0.75 * blur;
  vec3 light = towards.y >= 0.0
    ? mix(stage_ambient[1], stage_ambient[0], smoothstep(0.0, wide, towards.y))
    : mix(stage_ambient[1], stage_ambient[2], smoothstep(0.0, wide, -towards.y));
  for (int i = 0; i < 2; i++) {
    float sharp = stage_lobe_light[i].w;
    float k = sharp / (1.0 + sharp * blur * blur);
    light += stage_lobe_light[i].rgb * (k / sharp) * exp(k * (dot(towards, stage_lobe_towards[i]) - 1.0));
  }
  return light;
}
`;

/**
 * Metallic-roughness shading by the reference equations of glTF 2.0, appendix B: Lambert and GGX with the
 * height-correlated Smith term and Schlick's Fresnel for the key light; for the environment the split sum with the fit
 * of its second half by B. Karis, "Physically based shading on mobile" (2014). Where the normal turns within a pixel,
 * the key light's highlight is widened by its variance, so that it does not sparkle (Y. Tokuyoshi and A. Kaplanyan,
 * "Improved geometric specular antialiasing", 2019, with their constants). Linear light in and out.
 */
export const SHADING_GLSL = `const float STAGE_PI = 3.141592653589793;
vec3 stage_shade(vec3 base, float metallic, float rough, vec3 n, vec3 v) {
  vec3 nx = dFdx(n), ny = dFdy(n);
  float turned = min((dot(nx, nx) + dot(ny, ny)) / STAGE_PI, 0.18);
  float alpha = max(rough * rough, 0.002);
  float a2 = min(alpha * alpha + turned, 1.0);
  vec3 f0 = mix(vec3(0.04), base, metallic);
  vec3 diffuse = base * (1.0 - metallic);
  vec3 l = stage_key_towards;
  vec3 h = normalize(l + v);
  float nl = max(dot(n, l), 0.0), nv = max(abs(dot(n, v)), 1e-4), nh = max(dot(n, h), 0.0), vh = max(dot(v, h), 0.0);
  float d = nh * nh * (a2 - 1.0) + 1.0;
  float distribution = a2 / (STAGE_PI * d * d);
  float visibility = 0.5 / max(nl * sqrt(nv * nv * (1.0 - a2) + a2) + nv * sqrt(nl * nl * (1.0 - a2) + a2), 1e-5);
  vec3 fresnel = f0 + (1.0 - f0) * pow(1.0 - vh, 5.0);
  vec3 light = ((1.0 - fresnel) * diffuse / STAGE_PI + fresnel * distribution * visibility) * stage_key_light * nl;
  vec4 r = rough * vec4(-1.0, -0.0275, -0.572, 0.022) + vec4(1.0, 0.0425, 1.04, -0.04);
  float a004 = min(r.x * r.x, exp2(-9.28 * nv)) * r.x + r.y;
  vec2 scaled = vec2(-1.04, 1.04) * a004 + r.zw;
  return light + stage_environment(n, 1.0) * diffuse + stage_environment(reflect(-v, n), rough) * (f0 * scaled.x + scaled.y);
}
`;

/**
 * Khronos PBR Neutral tone mapper (Khronos Group, 2024): base colours up to 0.8 stay what they are, less the reflection
 * at grazing angles; what is brighter is pressed below 1.
 */
export const TONE_GLSL = `vec3 stage_tone(vec3 color) {
  const float start = 0.8 - 0.04;
  const float desaturation = 0.15;
  float low = min(color.r, min(color.g, color.b));
  color -= low < 0.08 ? low - 6.25 * low * low : 0.04;
  float peak = max(color.r, max(color.g, color.b));
  if (peak < start) return color;
  float d = 1.0 - start;
  float pressed = 1.0 - d * d / (peak + d - start);
  color *= pressed / peak;
  float g = 1.0 - 1.0 / (desaturation * (peak - pressed) + 1.0);
  return mix(color, vec3(pressed), g);
}
`;
