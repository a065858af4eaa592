/**
 * The context that materials are drawn with, made at the first call; null where the browser gives none. A browser
 * may take long to make it.
 */
export const contextOf = (canvas: HTMLCanvasElement): WebGL2RenderingContext | null =>
  canvas.getContext('webgl2', { alpha: false, antialias: false, depth: false, powerPreference: 'high-performance' });
