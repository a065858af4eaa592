/**
 * The context that materials are drawn with, made at the first call; null where the browser gives none. A browser
 * may take long to make it, and to answer its first question. Written so that it can stand in a page by itself.
 */
export function contextOf(canvas: HTMLCanvasElement): WebGL2RenderingContext | null {
  const gl = canvas.getContext('webgl2', {
    alpha: false,
    antialias: false,
    depth: false,
    powerPreference: 'high-performance',
  });
  gl?.getExtension('KHR_parallel_shader_compile');
  return gl;
}
