import { colorOfHex, IDENTITY, type ShaderMaterial, type Matrix, type Surface } from '@estela/core';
import { codedOf, tokens } from '../ui/tokens.ts';
import { ProgramBuild } from './program-build.ts';
import type { MaterialProgram, Moment } from './material-program.ts';
import type { GpuMesh } from './meshes.ts';
import { ATTRIBUTES } from './attributes.ts';
import { setLight } from './lighting.ts';
import type { Scene } from '../material/lighting.ts';
import { Backdrop } from './backdrop.ts';
import { MultisampleTarget, RenderTarget } from './render-target.ts';
import { UniformLocations } from './uniform-locations.ts';
import { COPY } from './surface-shader.ts';
import type { Textures } from './textures.ts';

/** The UV square as it lies on the canvas, in pixels from the top left; `repeat` tiles fit along its sides. */
export interface FlatView {
  readonly x: number;
  readonly y: number;
  readonly size: number;
  readonly repeat: number;
}

/** A camera: column-major view-projection matrix, and where it stands. */
export interface CameraView {
  readonly matrix: readonly number[];
  readonly eye: readonly number[];
  /** Metres to the nearest and the farthest that is seen. */
  readonly near: number;
  readonly far: number;
}

/** A material on a mesh that stands somewhere, at a moment of its own. */
export interface Drawn {
  readonly program: MaterialProgram;
  readonly glsl: ShaderMaterial;
  readonly surface: Surface;
  readonly moment: Moment;
  readonly mesh: GpuMesh;
  readonly model: Matrix;
  /** Full-screen overlay, in front of everything: the mesh is the view itself, -1..1. */
  readonly overlay: boolean;
  /** A mark on what stands there, no part of it: nothing looks at it from before. */
  readonly mark: boolean;
}

/** Size of a canvas in pixels, and how many samples each of them has where meshes are drawn. */
export interface CanvasSize {
  readonly width: number;
  readonly height: number;
  readonly samples: number;
}

const isSeeThrough = ({ surface }: Drawn): boolean => surface.mode === 'blend' || surface.mode === 'add';

/**
 * How often in one picture what stands behind is copied anew, for surfaces that refract each other; later ones see what
 * was there then.
 */
const MOST_LOOKS = 8;
/** Texture units past those of a material's own images. */
const BEHIND_UNIT = 16;

/** Draws materials into a canvas. Colours are mixed in linear light and shown in sRGB. */
export class Renderer {
  readonly #empty: WebGLVertexArrayObject;
  readonly #easel: MultisampleTarget;
  /** What stands behind those that look behind them. */
  readonly #behind: RenderTarget;
  readonly #picture: RenderTarget;
  readonly #backdrop: Backdrop;
  #copy: UniformLocations | undefined;

  constructor(readonly gl: WebGL2RenderingContext) {
    this.#empty = gl.createVertexArray();
    // What vertices without colours have.
    gl.vertexAttrib4f(ATTRIBUTES.color, 1, 1, 1, 1);
    this.#easel = new MultisampleTarget(gl);
    this.#behind = new RenderTarget(gl);
    this.#picture = new RenderTarget(gl);
    this.#backdrop = new Backdrop(gl);
  }

  /** Draws the UV square once or tiled, over small squares of grey where it can be seen through. */
  drawFlat(
    program: MaterialProgram,
    glsl: ShaderMaterial,
    moment: Moment,
    textures: Textures,
    view: FlatView,
    width: number,
    height: number,
    target: WebGLFramebuffer | null = null,
  ): void {
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, target);
    gl.viewport(0, 0, width, height);
    gl.disable(gl.BLEND);
    gl.disable(gl.DEPTH_TEST);
    gl.clearColor(...codedOf(tokens.pit), 1);
    gl.clear(gl.COLOR_BUFFER_BIT);
    program.use(glsl, moment, textures);
    gl.uniform4f(program.location('stage_square'), view.x, view.y, view.size / view.repeat, view.repeat);
    gl.uniform2f(program.location('stage_size'), width, height);
    gl.bindVertexArray(this.#empty);
    gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, view.repeat * view.repeat);
  }

  /**
   * Draws meshes as a camera sees them: the backdrop and what covers it first; then what looks at those; then what can
   * be seen through, far to near; overlays, and marks, last.
   */
  drawScene(
    things: readonly Drawn[],
    textures: Textures,
    view: CameraView,
    scene: Scene,
    { width, height, samples }: CanvasSize,
  ): void {
    const { gl } = this;
    const away = ({ model: m }: Drawn): number =>
      Math.hypot(m[12]! - view.eye[0]!, m[13]! - view.eye[1]!, m[14]! - view.eye[2]!);
    const parts = things.filter((t) => !t.overlay && !t.mark);
    const solid = parts.filter((t) => !isSeeThrough(t));
    const clear = parts.filter(isSeeThrough).sort((a, b) => away(b) - away(a));
    this.#easel.bind(width, height, samples);
    gl.clearColor(0, 0, 0, 0);
    gl.depthMask(true);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    gl.disable(gl.BLEND);
    gl.enable(gl.DEPTH_TEST);
    this.#backdrop.draw(scene, view);
    const draw = (some: readonly Drawn[]): void => {
      for (const thing of some) this.#draw(thing, textures, view, scene, width, height);
    };
    draw(solid.filter((t) => !t.program.looksBehind));
    // Only surfaces that look at what is behind them need that apart.
    if (things.some((t) => t.program.looksBehind)) {
      this.#easel.copyTo(this.#behind, width, height, true);
      this.#behind.offer(BEHIND_UNIT);
    }
    draw(solid.filter((t) => t.program.looksBehind));
    let looks = 0;
    clear.forEach((thing, i) => {
      // Each is seen through by those in front of it.
      if (thing.program.refracts && i > 0 && looks++ < MOST_LOOKS) {
        this.#easel.copyTo(this.#behind, width, height, false);
        this.#behind.offer(BEHIND_UNIT);
      }
      draw([thing]);
    });
    draw(things.filter((t) => t.overlay));
    draw(things.filter((t) => t.mark));
    gl.depthMask(true);
    this.#easel.copyTo(this.#picture, width, height, false);
    this.#show(
      width,
      height,
      things.some((t) => t.surface.lit) || scene.backdrop !== 'plain' ? 2 ** scene.exposure : 0,
    );
  }

  #draw(thing: Drawn, textures: Textures, view: CameraView, scene: Scene, width: number, height: number): void {
    const { gl } = this;
    const { program, surface, mesh, overlay } = thing;
    const seeThrough = isSeeThrough(thing);
    // A refracting surface paints what is behind it itself, and hides its own far side.
    gl.depthMask(!overlay && (!seeThrough || program.refracts));
    if (overlay) gl.disable(gl.DEPTH_TEST);
    else gl.enable(gl.DEPTH_TEST);
    if (seeThrough && !program.refracts) gl.enable(gl.BLEND);
    else gl.disable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
    program.use(thing.glsl, thing.moment, textures);
    gl.uniformMatrix4fv(program.location('stage_view'), false, overlay ? IDENTITY : view.matrix);
    gl.uniformMatrix4fv(program.location('stage_model'), false, overlay ? IDENTITY : thing.model);
    gl.uniform3fv(program.location('stage_eye'), overlay ? [0, 0, 1000] : view.eye);
    gl.uniform2f(program.location('stage_size'), width, height);
    if (surface.lit) setLight(gl, (name) => program.location(name), scene.environment);
    if (program.looksBehind) {
      gl.uniform1i(program.location('stage_behind'), BEHIND_UNIT);
      gl.uniform1i(program.location('stage_behind_depth'), BEHIND_UNIT + 1);
      gl.uniform2f(program.location('stage_planes'), view.near, view.far);
    }
    if (program.readsNormals) mesh.computeTangents();
    gl.bindVertexArray(mesh.array);
    gl.enable(gl.CULL_FACE);
    // Far sides first, so that a see-through near side lies over them.
    if (surface.twoSided) {
      gl.cullFace(gl.FRONT);
      gl.drawArrays(gl.TRIANGLES, 0, mesh.count);
    }
    gl.cullFace(gl.BACK);
    gl.drawArrays(gl.TRIANGLES, 0, mesh.count);
    gl.disable(gl.CULL_FACE);
  }

  #show(width: number, height: number, exposure: number): void {
    const { gl } = this;
    if (!this.#copy) {
      const made = new ProgramBuild(gl, COPY).finish();
      if ('log' in made) return;
      this.#copy = new UniformLocations(gl, made);
    }
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.viewport(0, 0, width, height);
    gl.disable(gl.BLEND);
    gl.disable(gl.DEPTH_TEST);
    gl.useProgram(this.#copy.program);
    gl.uniform1f(this.#copy.of('stage_exposure'), exposure);
    const [r, g, b] = colorOfHex(tokens.pit);
    gl.uniform3f(this.#copy.of('stage_bare'), r, g, b);
    gl.uniform1i(this.#copy.of('stage_picture'), 0);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, this.#picture.color);
    gl.bindSampler(0, null);
    gl.bindVertexArray(this.#empty);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }
}
