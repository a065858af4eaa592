import type { PackageHost } from './package.ts';
import { testGrid } from '../../image/test-grid.ts';
import { encodePng, type RgbaPicture } from '../png.ts';
import { jsModule } from './js-module.ts';
import { playerStage } from './main-stage.ts';
import type { PlayerData, PlayerImage, PlayerSetting, PlayerShader } from './player-data.ts';
import type { PackageShader } from './shaders.ts';
import type { PackageTexture } from './textures.ts';

type PlayerHost = Pick<PackageHost, 'deflate' | 'base64' | 'player'>;

/** Where the page of the player takes up what it is to play. */
const PLACE = '<!-- package -->';

const MIMES: Readonly<Record<string, string>> = { png: 'image/png', jpg: 'image/jpeg', webp: 'image/webp' };

/** Browsers read files of 8 bits; of more they keep 8. The test grid stands in for what was left out. */
function imageOf(
  { pixels, bits, type, bytes, width, height }: PackageTexture,
  { deflate, base64 }: PlayerHost,
): PlayerImage {
  if (!pixels)
    return {
      kind: 'file',
      url: `data:image/png;base64,${base64(encodePng(testGrid() as RgbaPicture, deflate, true))}`,
    };
  if (bits === 8) return { kind: 'file', url: `data:${MIMES[type] ?? 'image/png'};base64,${base64(bytes)}` };
  const raw = new Uint8Array(pixels.data.length * 2);
  const view = new DataView(raw.buffer);
  pixels.data.forEach((value, i) => {
    view.setUint16(i * 2, value, true);
  });
  return { kind: 'pixels', width, height, bits, data: base64(deflate(raw)) };
}

/** Text within a script must not end it, nor open a comment that swallows its end. */
const inScript = (text: string): string => text.replace(/<(?=\/script|script|!--)/gi, '\\x3c');

/**
 * A page that plays a package by itself: everything is in it, so that it also runs from a folder. `player` is the
 * built page of packages/player.
 */
export function playerPage(
  shaders: readonly [PackageShader, ...PackageShader[]],
  textures: readonly PackageTexture[],
  host: PlayerHost & { readonly asExported: boolean },
): string {
  const { player, asExported } = host;
  const [{ program }] = shaders;
  const shaderOf = (model: PackageShader): PlayerShader => ({
    fragment: playerStage({ name: model.name.identifier, shader: model.shader, surface: program.surface }),
    fields: model.shader.uniforms.map(({ name, type }) => ({ name, type })),
    samplers: model.shader.samplers.map(({ name, slot }) => ({
      name,
      image: textures.findIndex((t) => t.source === slot.source),
      wrap: slot.wrap,
      filter: slot.filter,
      color: slot.encoding === 'color',
    })),
    outputs: model.shader.outputs.map((o) => o.name),
  });
  const settings: PlayerSetting[] = [
    { label: asExported ? 'As exported' : 'Base', shader: 0 },
    ...program.variants.map(({ name }) => ({
      label: name,
      variant: name,
      shader: shaders.findIndex((s) => s.variants.includes(name)),
    })),
  ];
  const data: PlayerData = {
    title: program.title || 'Untitled',
    loop: { seconds: program.loop.seconds, fps: program.loop.fps },
    lit: program.surface.lit,
    shaders: shaders.map(shaderOf),
    settings,
    images: textures.map((t) => imageOf(t, host)),
  };
  const modules = shaders.map(
    (model) => `(() => {\n${jsModule(model).replace(/^export /gm, '')}\nreturn { dials, variants, frame };\n})()`,
  );
  const script = `window.estelaPackage = ${JSON.stringify(data)};\nwindow.estelaModules = [${modules.join(',\n')}];`;
  if (!player.includes(PLACE)) throw new Error('The player page is not built. Run npm run build.');
  return player.replace(PLACE, () => `<script>${inScript(script)}</script>`);
}
