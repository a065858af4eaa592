import { forSoftware } from '@estela/core';

const SOFTWARE = /swiftshader|llvmpipe|softpipe|software|basic render/i;
const known = new WeakMap<WebGL2RenderingContext, boolean>();

/** Whether a context is drawn by the processor, as far as the browser tells. */
export function isSoftware(gl: WebGL2RenderingContext): boolean {
  let software = known.get(gl);
  if (software === undefined) {
    const about = gl.getExtension('WEBGL_debug_renderer_info');
    software = SOFTWARE.test(String(gl.getParameter(about ? about.UNMASKED_RENDERER_WEBGL : gl.RENDERER)));
    known.set(gl, software);
  }
  return software;
}

/** A shader's text as a context computes it soonest. */
export const soonest = (gl: WebGL2RenderingContext, source: string): string =>
  isSoftware(gl) ? forSoftware(source) : source;
