import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { describe, expect, it } from '@jest/globals';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { unzipSync } from 'fflate';
import { PNG } from 'pngjs';
import { examplePicture, referencePage } from '../src/reference.ts';
import { OPERATIONS } from '@estela/core';

const schema = JSON.parse(
  readFileSync(new URL('../../../docs/flipbook.schema.json', import.meta.url), 'utf8'),
) as object;
/** Whether a manifest of a bake is as docs say. */
const isManifest = new Ajv2020({ strict: true, strictTuples: false, allowUnionTypes: true }).compile(schema);

const built = fileURLToPath(new URL('../dist/main.js', import.meta.url));
const cases = JSON.parse(readFileSync(new URL('../../core/test/conformance/cases.json', import.meta.url), 'utf8')) as {
  values: { id: string; wake: string; step: string; uv: number[]; time: number; expect: number[]; tol: number }[];
};
const folder = mkdtempSync(join(tmpdir(), 'estela-cli-'));

function estela(...args: string[]): { status: number | null; out: string; err: string } {
  const { status, stdout, stderr } = spawnSync(process.execPath, [built, ...args], { encoding: 'utf8' });
  return { status, out: stdout, err: stderr };
}

function file(name: string, text: string): string {
  const path = join(folder, name);
  writeFileSync(path, text);
  return path;
}

describe('estela eval', () => {
  it.each(cases.values)(
    'gives the value of conformance case $id',
    ({ id, wake, step, uv, time, expect: wanted, tol }) => {
      const { status, out } = estela(
        'eval',
        file(`${id}.wake`, wake),
        '--step',
        step,
        '--uv',
        uv.join(),
        '--time',
        String(time),
        '--json',
      );
      expect(status).toBe(0);
      const { value } = JSON.parse(out) as { value: number[] };
      expect(value).toHaveLength(wanted.length);
      value.forEach((v, i) => expect(Math.abs(v - wanted[i]!)).toBeLessThanOrEqual(tol));
    },
  );

  it('takes dials, switches and variants, and outputs by channel', () => {
    const path = file(
      'dials.wake',
      'dial k = 1 in 0..9\nswitch s = on\nout color = k + s * 10\nvariant "Two" { k = 2, s = off }\n',
    );
    const value = (...more: string[]): number[] =>
      (JSON.parse(estela('eval', path, '--step', 'out.color', '--json', ...more).out) as { value: number[] }).value;
    expect(value()).toEqual([11, 11, 11, 1]);
    expect(value('--variant', 'Two')).toEqual([2, 2, 2, 1]);
    expect(value('--variant', 'Two', '--set', 'k=3', '--set', 's=on')).toEqual([13, 13, 13, 1]);
  });

  it.each([
    [['--step', 'nothing'], 1, 'no step'],
    [['--step', 'out.color', '--uv', '1'], 2, '--uv'],
    [['--step', 'out.color', '--set', 'x=1'], 2, "named 'x'"],
    [['--step', 'out.color', '--set', 'k=red'], 2, 'takes a number'],
    [['--step', 'out.color', '--variant', 'None'], 2, '"None"'],
  ])('says what is wrong with %j', (args, status, words) => {
    const run = estela('eval', file('plain.wake', 'dial k = 1\nout color = k\n'), ...args);
    expect(run.status).toBe(status);
    expect(run.err).toContain(words);
  });
});

describe('estela check', () => {
  it('reads images of other kinds, and says of a broken one what is wrong with it', () => {
    const png = PNG.sync.write(Object.assign(new PNG({ width: 2, height: 2 }), { data: Buffer.alloc(16, 128) }));
    writeFileSync(join(folder, 'whole.png'), png);
    writeFileSync(join(folder, 'half.png'), png.subarray(0, png.length - 20));
    execFileSync('convert-im6.q16', ['-size', '4x4', 'xc:#ff0000', join(folder, 'red.jpg')]);
    const text =
      'image a = "whole"\nimage b = "half.png"\nimage c = "none.png"\nimage d = "red.jpg"\nout color = uv |> sample(d)\n';
    const path = file('images.wake', text);
    const { out } = estela('check', path, '--sources', folder, '--json');
    const { diagnostics } = JSON.parse(out) as { diagnostics: { code: string; line: number; message: string }[] };
    expect(diagnostics.filter((d) => d.code !== 'unused-image').map((d) => [d.code, d.line])).toEqual([
      ['image-refused', 2],
      ['image-missing', 3],
    ]);
    expect(diagnostics.find((d) => d.code === 'image-refused')?.message).toMatch(
      /^"half.png" is a broken PNG file: .* A test grid is shown instead\.$/,
    );
    const { value } = JSON.parse(estela('eval', path, '--sources', folder, '--step', 'out.color', '--json').out) as {
      value: number[];
    };
    expect(value[0]).toBeCloseTo(1, 1);
    expect(value[1]).toBeLessThan(0.01);
  });

  it('tells of a seam that scrolls through the picture, and of a normal map that is none', () => {
    const grey = new PNG({ width: 16, height: 16 });
    for (let i = 0; i < 256; i++) grey.data.set([(i % 16) * 16, (i % 16) * 16, (i % 16) * 16, 255], i * 4);
    writeFileSync(join(folder, 'ramp.png'), PNG.sync.write(grey));
    const path = file(
      'seam.wake',
      'loop 2s at 30fps\nimage a = "ramp.png" normal\nflow = uv |> pan(1 lap, heading: 0deg)\nout color = (flow |> sample(a)).xyz\n',
    );
    const { out } = estela('check', path, '--sources', folder);
    expect(out).toMatch(/"ramp.png" has a visible seam left to right, 15 times the change inside; flow scrolls it/);
    expect(out).toContain('fix: Make ramp.png tileable');
    expect(out).toContain('fix: Mirror');
    expect(out).toMatch(/"ramp.png" is read as normal, but is not a normal map: it is grey\./);
  });

  it('tells of the conformance materials what the contract says, and with --strict fails on an open one', () => {
    const cases = (
      JSON.parse(readFileSync(new URL('../../core/test/conformance/cases.json', import.meta.url), 'utf8')) as {
        verdicts: { id: string; wake: string; expect: Record<string, string> }[];
      }
    ).verdicts;
    const paths = cases.map(({ id, wake }) => file(`${id}.wake`, wake));
    const lines = estela('check', ...paths, '--json')
      .out.trim()
      .split('\n');
    lines.forEach((line, i) => {
      const report = JSON.parse(line) as Record<string, { verdict: string }>;
      for (const [shift, verdict] of Object.entries(cases[i]!.expect))
        expect([cases[i]!.id, shift, report[shift]?.verdict]).toEqual([cases[i]!.id, shift, verdict]);
    });
    expect(lines).toHaveLength(cases.length);
    const odd = file('odd.wake', 'dial go = 1 in 0..4\nout color = wave(go * 1 lap)\nvariant "Odd" { go = 1.5 }\n');
    const { status, out } = estela('check', odd, '--json');
    expect([status, JSON.parse(out)]).toMatchObject([
      0,
      {
        loop: { verdict: 'present' },
        variants: [{ name: 'Odd', loop: { verdict: 'open', witness: { output: 'color' } } }],
      },
    ]);
    expect(estela('check', odd, '--strict')).toMatchObject({
      status: 1,
      out: expect.stringContaining('Its variant "Odd" does not loop.'),
    });
  });

  it('prints motions, reasons, fixes, jump and cost, and holds the cost against a budget', () => {
    const path = file(
      'haze.wake',
      'loop 6s at 30fps\nflow = uv |> pan(0.3/s, heading: 270deg)\nbeat = wave(2 laps)\nout color = (flow |> fbm(cells: 4)) * beat\n',
    );
    const { status, out } = estela('check', path, '--json', '--budget', 'operations=10');
    const report = JSON.parse(out) as {
      diagnostics: { code: string; fixes: { title: string; edits: object[] }[] }[];
    } & Record<string, unknown>;
    expect([status, report]).toMatchObject([
      0,
      {
        loop: {
          seconds: 6,
          frames: 180,
          verdict: 'open',
          because: [{ line: 4 }, { line: 2, text: 'flow starts the motion: pan(0.3/s, heading: 270deg)' }],
        },
        tile_u: { verdict: 'always' },
        jump: expect.any(Number),
        motion: [
          { step: 'flow', line: 2, kind: 'pan', period_seconds: 3.33333, laps: 1.8, closes: false },
          { step: 'beat', line: 3, kind: 'wave', period_seconds: 3, laps: 2, closes: true },
        ],
        cost: { operations: expect.any(Number), reads: 0, samplers: 0 },
        steps: [
          { step: 'flow', line: 2, loop: { verdict: 'open' } },
          { step: 'beat', line: 3, loop: { verdict: 'always' } },
          { step: 'color' },
        ],
      },
    ]);
    const codes = report.diagnostics.map((d) => d.code);
    expect(codes).toEqual(expect.arrayContaining(['loop-open', 'over-budget']));
    // 1 lap in 6 s is no decimal per second, so only laps are offered; 2 laps are nearer to 1.8.
    const open = report.diagnostics.find((d) => d.code === 'loop-open');
    expect(open?.fixes).toMatchObject([
      { title: 'Make it 2 laps', edits: [{ insert: '2 laps' }] },
      { title: 'Make it 1 lap', edits: [{ insert: '1 lap' }] },
    ]);
    expect(estela('check', path, '--budget', 'operations=many').status).toBe(1);
  });

  it('prints a report as JSON, with places, fixes and dials in their own units', () => {
    const path = file(
      'bad.wake',
      'loop 2s at 30fps\ndial go: rate = 0.5/s in -1/s..1/s "Pace"\nimage i = "none.png"\na = uv |> pan(0.3)\nout color = a |> sample(i)\n',
    );
    const { status, out } = estela('check', path, '--json');
    expect(status).toBe(1);
    expect(JSON.parse(out)).toMatchObject({
      ok: false,
      loop: { seconds: 2, fps: 30, frames: 60 },
      diagnostics: [
        { code: 'image-missing', severity: 'warning', line: 3 },
        {
          code: 'argument-type',
          severity: 'error',
          line: 4,
          column: 15,
          fixes: [{ title: 'Write 0.3/s', edits: [{ insert: '/s' }] }, { title: 'Write 0.3 laps' }],
        },
      ],
      dials: [{ name: 'go', type: 'rate', default: 0.5, min: -1, max: 1, help: 'Pace' }],
    });
  });

  it('prints a line for each finding otherwise, and knows missing files', () => {
    expect(estela('check', file('good.wake', 'out color = 1\n'))).toMatchObject({ status: 0 });
    const bad = estela('check', file('worse.wake', 'out color = nothing\n'));
    expect(bad.status).toBe(1);
    expect(bad.out).toContain("worse.wake:1:13: error: There is no value named 'nothing' here.");
    expect(estela('check', join(folder, 'absent.wake'))).toMatchObject({ status: 2 });
  });
});

describe('every command that reads a material', () => {
  // What only expanding can tell counts too: 17 images, and operations that double at each step.
  const images = Array.from({ length: 17 }, (_, i) => i);
  const limits = {
    'an unknown name': ['out color = nothing\n', 'unknown-name'],
    'too many images': [
      `${images.map((i) => `image i${String(i)} = "i${String(i)}.png"\n`).join('')}out color = ${images.map((i) => `(uv |> sample(i${String(i)}))`).join(' + ')}\n`,
      'too-many-samplers',
    ],
    'too many operations': [
      `op f0(a: number) = sin(a) + cos(a * 2)\n${Array.from({ length: 16 }, (_, i) => `op f${String(i + 1)}(a: number) = f${String(i)}(a + 1) + f${String(i)}(a + 2)\n`).join('')}out color = f16(uv.x)\n`,
      'too-many-nodes',
    ],
  } as const;
  it.each(Object.entries(limits))(
    'refuses %s as check does: exit 1, the sentence, nothing written',
    (name, [text, code]) => {
      const path = file(`${name}.wake`, text);
      const checked = estela('check', path, '--json');
      const error = (
        JSON.parse(checked.out) as { diagnostics: { severity: string; code: string; message: string }[] }
      ).diagnostics.find((d) => d.severity === 'error');
      expect([checked.status, error?.code]).toEqual([1, code]);
      const out = join(folder, `refused ${name}`);
      for (const args of [
        ['eval', path, '--step', 'out.color'],
        ['emit', path, '--out', out],
        ['bake', path, '--size', '2x2', '--frames', '0', '--out', out],
      ])
        expect([args[0], estela(...args)]).toEqual([
          args[0],
          { status: 1, out: '', err: expect.stringContaining(error!.message) },
        ]);
      expect(existsSync(out)).toBe(false);
    },
  );
});

describe('estela emit', () => {
  it('writes a shader that a compiler takes, a module, and a manifest of its dials in their units', async () => {
    const demo = fileURLToPath(new URL('../../../demo/materials/mist-curtain.wake', import.meta.url));
    const out = join(folder, 'emitted');
    expect(estela('emit', demo, '--out', out).status).toBe(0);
    const shader = readFileSync(join(out, 'mist-curtain.glsl'), 'utf8');
    writeFileSync(
      join(out, 'whole.frag'),
      `#version 300 es\nprecision highp float;\nprecision highp int;\n${shader}\nin vec2 at;\nout vec4 o;\nuniform mist_curtain_Frame frame;\nvoid main() { o = mist_curtain(at, 0.5, 1.0, frame).color; }\n`,
    );
    expect(spawnSync('glslangValidator', [join(out, 'whole.frag')], { encoding: 'utf8' })).toMatchObject({ status: 0 });
    expect(JSON.parse(readFileSync(join(out, 'mist-curtain.json'), 'utf8'))).toMatchObject({
      title: 'Mist curtain',
      name: 'mist_curtain',
      time: { period: 6 },
      dials: {
        fall: { type: 'laps', unit: 'laps a loop', default: 2, min: -6, max: 6, step: 1 },
        tint: { hex: '#9fd8e6' },
      },
      shaders: [
        {
          name: 'mist-curtain',
          variants: [null, 'Calm', 'Gale'],
          images: [
            { source: 'mist-a.png', wrap: 'repeat', filter: 'linear', encoding: 'color' },
            { source: 'mist-normal.png', encoding: 'normal' },
          ],
        },
      ],
      variants: { Calm: { fall: 1 } },
    });
    writeFileSync(join(out, 'module.mjs'), readFileSync(join(out, 'mist-curtain.js')));
    const module = (await import(pathToFileURL(join(out, 'module.mjs')).href)) as {
      readonly frameAt: (dials: object, index: number) => object;
    };
    expect(module.frameAt({}, 7)).toEqual(module.frameAt({ fall: 2 }, 7 + 6 * 30));
    expect(module.frameAt({ fall: 3 }, 7)).not.toEqual(module.frameAt({}, 7));
    expect(estela('emit', demo, '--target', 'c', '--out', join(out, 'c')).status).toBe(0);
    expect(readdirSync(join(out, 'c')).sort()).toEqual(['mist-curtain.h', 'mist-curtain.json', 'mist-curtain.wake']);
    expect(estela('emit', demo, '--target', 'other', '--out', out)).toMatchObject({ status: 2 });
  });
});

describe('estela export', () => {
  const ribbon = fileURLToPath(new URL('../../../demo/materials/notice-ribbon.wake', import.meta.url));
  const out = join(folder, 'exported', 'ribbon.zip');
  const images = join(folder, 'ribbon-images');
  const files = (): Record<string, Uint8Array> => unzipSync(readFileSync(out));

  it('refuses what lacks an image, before anything is written, unless it is left out knowingly', () => {
    expect(estela('export', ribbon, '--out', out)).toMatchObject({
      status: 1,
      err: expect.stringMatching(/ribbon-signs\.png[^]*--leave-out-missing/),
    });
    expect(existsSync(out)).toBe(false);
    expect(estela('export', ribbon, '--leave-out-missing', '--out', out).status).toBe(0);
    expect(JSON.parse(Buffer.from(files()['notice-ribbon.json']!).toString())).toMatchObject({
      textures: [{ source: 'ribbon-signs.png', file: null }],
    });
    expect(Buffer.from(files()['README.md']!).toString()).toMatch(/left out: ribbon-signs/);
    for (const wrong of [
      ['--normal-y', 'left'],
      ['--target', 'glsl,other'],
      ['--variant', 'None'],
    ])
      expect(estela('export', ribbon, ...wrong, '--out', out).status).toBe(2);
  });

  it('writes the image as it came, and the same bytes each time', () => {
    mkdirSync(images, { recursive: true });
    const png = PNG.sync.write(Object.assign(new PNG({ width: 4, height: 2 }), { data: Buffer.alloc(32, 200) }));
    writeFileSync(join(images, 'ribbon-signs.png'), png);
    const made = [0, 1].map(() => {
      expect(estela('export', ribbon, '--sources', images, '--out', out).status).toBe(0);
      return readFileSync(out);
    });
    expect(Buffer.compare(made[0]!, made[1]!)).toBe(0);
    expect(Buffer.compare(Buffer.from(files()['textures/ribbon-signs.png']!), png)).toBe(0);
    const { textures, files: listed } = JSON.parse(Buffer.from(files()['notice-ribbon.json']!).toString()) as {
      readonly textures: readonly object[];
      readonly files: readonly string[];
    };
    expect(textures).toEqual([
      {
        source: 'ribbon-signs.png',
        file: 'textures/ribbon-signs.png',
        width: 4,
        height: 2,
        bits: 8,
        bytes: png.length,
        sha256: createHash('sha256').update(png).digest('hex'),
        converted: false,
      },
    ]);
    expect(Object.keys(files()).sort()).toEqual(listed);
    expect(Buffer.from(files()['notice-ribbon.wake']!).toString()).toBe(readFileSync(ribbon, 'utf8'));
    writeFileSync(join(folder, 'preview.png'), files()['preview.png']!);
    expect(spawnSync('pngcheck', ['-q', join(folder, 'preview.png')])).toMatchObject({ status: 0 });
    // The player alone is under 15 kB.
    const player = readFileSync(fileURLToPath(new URL('../../player/dist/index.html', import.meta.url)));
    expect(player.length).toBeLessThan(15_000);
  });
});

describe('estela bake', () => {
  it('reads images where they are, in all its threads', () => {
    const sources = join(folder, 'bake-images');
    mkdirSync(sources, { recursive: true });
    const red = Object.assign(new PNG({ width: 1, height: 1 }), { data: Buffer.from([255, 0, 0, 255]) });
    writeFileSync(join(sources, 'red.png'), PNG.sync.write(red));
    const text = 'loop 1s at 4fps\nsurface unlit opaque\nimage a = "red.png"\nout color = (uv |> sample(a)).rgb\n';
    const out = join(folder, 'red-frames');
    const made = estela('bake', file('reads.wake', text), '--sources', sources, '--size', '4x4', '--out', out);
    expect(made).toMatchObject({ status: 0, err: '' });
    const pictures = readdirSync(out).filter((name) => name.endsWith('.png'));
    expect(pictures).toHaveLength(4);
    for (const name of pictures)
      expect([...PNG.sync.read(readFileSync(join(out, name))).data.subarray(0, 4)]).toEqual([255, 0, 0, 255]);
  });

  const dome = fileURLToPath(new URL('../../../demo/materials/aurora-dome.wake', import.meta.url));

  it('writes an animation whose loop point moves no more than its frames do, the same bytes each time', () => {
    const [first, second] = ['a.png', 'b.png'].map((name) => {
      const out = join(folder, name);
      expect(estela('bake', dome, '--size', '48x32', '--format', 'apng', '--out', out)).toMatchObject({
        status: 0,
        err: '',
      });
      return out;
    });
    expect(Buffer.compare(readFileSync(first!), readFileSync(second!))).toBe(0);
    expect(spawnSync('pngcheck', ['-q', first!], { encoding: 'utf8' })).toMatchObject({ status: 0 });

    expect(estela('bake', dome, '--size', '48x32', '--out', join(folder, 'frames')).status).toBe(0);
    const files = readdirSync(join(folder, 'frames')).sort();
    expect([files.length, files.at(-1), files[9]]).toEqual([241, 'aurora-dome.json', 'aurora-dome.0009.png']);
    const names = files.slice(0, -1);
    const frames = names.map((name) => PNG.sync.read(readFileSync(join(folder, 'frames', name))).data);
    const change = (a: Buffer, b: Buffer): number => a.reduce((sum, v, i) => sum + Math.abs(v - b[i]!), 0);
    const changes = frames.map((frame, i) => change(frame, frames[(i + 1) % frames.length]!));
    expect(changes.at(-1)).toBeLessThanOrEqual(Math.max(...changes.slice(0, -1)));
    expect(changes.every((c) => c > 0)).toBe(true);
  });

  it('writes sheets, single frames and other channels', () => {
    const text =
      'loop 1s at 4fps\nsurface unlit blend one-sided\nout color = (saw(1 lap), uv.x, 1)\nout opacity = 0.5\nout normal = (0, 0, 1)\n';
    const path = file('small.wake', text);
    const picture = (...args: string[]): PNG => {
      const out = join(folder, 'picture.png');
      expect(estela('bake', path, '--size', '4x2', '--out', out, ...args)).toMatchObject({ status: 0, err: '' });
      return PNG.sync.read(readFileSync(out));
    };
    const sheet = picture('--format', 'sheet');
    expect([sheet.width, sheet.height]).toEqual([8, 4]);
    // Frames 0 to 3 from the top left; the first red value of each is the sRGB byte of 0, 0.25, 0.5 and 0.75.
    expect([0, 4, 2 * 8, 2 * 8 + 4].map((p) => sheet.data[p * 4])).toEqual([0, 137, 188, 225]);
    const bled = picture('--format', 'sheet', '--bleed', '1', '--spread');
    expect([bled.width, bled.height]).toEqual([12, 8]);
    // The edge of the second frame, repeated beside that of the first.
    expect([5, 6, 7].map((p) => bled.data[p * 4])).toEqual([0, 137, 137]);
    const one = picture('--frames', '1');
    expect([...one.data.subarray(0, 4)]).toEqual([137, 99, 255, 128]);
    expect([...picture('--frames', '1', '--outputs', 'normal').data.subarray(0, 4)]).toEqual([128, 128, 255, 255]);
    // Two samples along each side of a pixel give the mean of linear light.
    expect(picture('--frames', '1', '--samples', '2').data[1]).toBe(99);
  });

  it('writes the same bytes in one thread and in more, every k-th frame, in the columns that are asked for', () => {
    const bake = (name: string, ...args: string[]): string => {
      const out = join(folder, name);
      expect(estela('bake', dome, '--size', '64x64', '--out', out, ...args)).toMatchObject({ status: 0, err: '' });
      return out;
    };
    // More than one band of a sheet, and bands that begin within a cell.
    const sheet = ['--format', 'sheet', '--columns', '8', '--frames', '0..127'];
    const [one, two] = ['1', '2'].map((jobs) => readFileSync(bake(`sheet-${jobs}.png`, ...sheet, '--jobs', jobs)));
    expect(Buffer.compare(one!, two!)).toBe(0);
    const { width, height, data } = PNG.sync.read(one!);
    expect([width, height]).toEqual([512, 1024]);
    const every = bake('every', '--frames', '0..127', '--every', '60');
    expect(readdirSync(every).sort()).toEqual([
      ...['0000', '0001', '0002'].map((n) => `aurora-dome.${n}.png`),
      'aurora-dome.json',
    ]);
    const frame = PNG.sync.read(readFileSync(join(every, 'aurora-dome.0001.png'))).data;
    const [left, top] = [(60 % 8) * 64, Math.floor(60 / 8) * 64];
    for (let y = 0; y < 64; y++)
      expect(data.subarray(((top + y) * 512 + left) * 4, ((top + y) * 512 + left + 64) * 4)).toEqual(
        frame.subarray(y * 64 * 4, (y + 1) * 64 * 4),
      );
    const deep = bake('deep.png', '--frames', '7', '--bits', '16');
    expect(PNG.sync.read(readFileSync(deep), { skipRescale: true }).depth).toBe(16);
    for (const path of [join(folder, 'sheet-1.png'), join(every, 'aurora-dome.0001.png'), deep])
      expect(spawnSync('pngcheck', ['-q', path], { encoding: 'utf8' })).toMatchObject({ status: 0 });
  });

  it.each([
    [['--bleed', '2'], 'to sheets'],
    [['--spread', '--premultiply'], 'premultiplied'],
    [['--bits', '10'], '--bits'],
    [['--every', '0'], 'every k-th'],
    [['--count', '0'], 'number of frames'],
    [['--count', '4', '--every', '2'], 'every k-th'],
    [['--pack', 'r=color'], 'color.r'],
    [['--pack', 'orm', '--outputs', 'color'], 'not both'],
    [['--columns', '5', '--format', 'sheet'], 'columns'],
    [['--jobs', 'many'], '--jobs'],
    [[], '4 files: give --out a folder'],
    [['--spread', '--size', '8192x2100'], 'Use fewer columns'],
    [['--size', '0x4'], 'width'],
    [['--size', '9000x9000'], 'width'],
    [['--frames', '2..1'], 'comes after'],
    [['--frames', '9'], 'frames 0 to 3'],
    [['--frames', '0,4'], 'frames 0 to 3'],
    [['--frames', '0,,2'], '--frames'],
    [['--outputs', 'colour'], '--outputs'],
    [['--outputs', 'normal'], 'has no output normal; its outputs are: color'],
    [['--normal-y', 'left'], '--normal-y'],
    [['--format', 'mov'], '--format'],
    [['--samples', '99'], 'Samples'],
  ])('refuses %j and writes nothing', (args, words) => {
    const out = join(folder, 'refused.png');
    const run = estela('bake', file('tiny.wake', 'loop 1s at 4fps\nout color = 1\n'), '--out', out, ...args);
    expect(run.status).toBe(2);
    expect(run.err).toContain(words);
    expect(existsSync(out)).toBe(false);
  });

  it('packs outputs by channel, of one picture or of several in a zip, with a manifest', () => {
    const text = `material "Packed light"
loop 1s at 4fps
surface lit blend one-sided
out color = (0.25, uv.y, saw(1 lap))
out opacity = 0.5
out normal = (0, 1, 0)
out roughness = 0.2
out metallic = 1
`;
    const path = file('packed.wake', text);
    const pixel = (...args: string[]): number[] => {
      const out = join(folder, 'packed.png');
      expect(estela('bake', path, '--size', '1x1', '--frames', '1', '--out', out, ...args)).toMatchObject({ err: '' });
      return [...PNG.sync.read(readFileSync(out)).data.subarray(0, 4)];
    };
    expect(pixel('--pack', 'r=color.r g=opacity b=normal.y a=0')).toEqual([137, 128, 255, 0]);
    expect(pixel('--pack', 'r=color.r g=normal.y', '--linear', 'color', '--normal-y', 'down')).toEqual([64, 0, 0, 255]);
    expect(pixel('--pack', 'orm')).toEqual([255, 51, 255, 255]);
    const out = join(folder, 'packed.zip');
    const args = ['--size', '4x4', '--format', 'sheet', '--columns', '3', '--power-of-two', '--bleed', '1'];
    expect(estela('bake', path, '--out', out, ...args, '--outputs', 'color,normal')).toMatchObject({
      status: 0,
      err: '',
    });
    const files = unzipSync(readFileSync(out));
    expect(Object.keys(files)).toEqual(['packed-light.color.png', 'packed-light.normal.png', 'packed-light.json']);
    const { width, height } = PNG.sync.read(Buffer.from(files['packed-light.normal.png']!));
    expect([width, height]).toEqual([32, 16]);
    const manifest = JSON.parse(Buffer.from(files['packed-light.json']!).toString()) as Record<string, unknown>;
    expect(isManifest(manifest)).toBe(true);
    expect(manifest).toMatchObject({
      rate: 4,
      closes: true,
      columns: 3,
      rows: 2,
      files: [{ width: 32, height: 16, memory: { plain: 2048, bc7: 512, astc4x4: 512 } }, { image: 'normal' }],
      frames: [{ x: 1, y: 1 }, { x: 7, y: 1, seconds: 0.25 }, {}, { x: 1, y: 7, width: 4, height: 4 }],
    });
  });

  it('writes one loop of video by ffmpeg, where it is', () => {
    const out = join(folder, 'dome.webm');
    const args = ['--format', 'webm', '--size', '65x48', '--count', '24', '--out', out];
    const run = estela('bake', dome, ...args);
    if (spawnSync('ffmpeg', ['-version']).status !== 0) {
      expect([run.status, run.err]).toEqual([2, expect.stringContaining('needs ffmpeg')]);
      return;
    }
    expect(run).toMatchObject({ status: 0, err: '' });
    const entries = 'stream=codec_name,width,height,r_frame_rate,nb_read_frames,pix_fmt';
    const said = spawnSync('ffprobe', ['-v', 'error', '-count_frames', '-show_entries', entries, '-of', 'json', out]);
    expect((JSON.parse(said.stdout.toString()) as { streams: unknown[] }).streams).toEqual([
      { codec_name: 'vp9', width: 65, height: 48, pix_fmt: 'yuv420p', r_frame_rate: '3/1', nb_read_frames: '24' },
    ]);
    // Its frames are those of the bake, but for what the codec and halved colours lose.
    const raw = spawnSync('ffmpeg', ['-v', 'error', '-i', out, '-f', 'rawvideo', '-pix_fmt', 'rgba', '-'], {
      maxBuffer: 1e9,
    }).stdout;
    const frames = join(folder, 'dome-frames');
    expect(estela('bake', dome, '--size', '65x48', '--count', '24', '--premultiply', '--out', frames).status).toBe(0);
    for (const frame of [0, 11, 23]) {
      const name = `aurora-dome.${String(frame).padStart(4, '0')}.png`;
      const { data } = PNG.sync.read(readFileSync(join(frames, name)));
      const apart = (shown: number): number => {
        const at = (shown % 24) * data.length;
        return data.reduce((sum, v, i) => sum + (i % 4 === 3 ? 0 : Math.abs(v - raw[at + i]!)), 0) / data.length;
      };
      // Few pixels, whose colours are halved: another frame is much further off.
      expect(apart(frame)).toBeLessThan(5);
      expect(apart(frame)).toBeLessThan(apart(frame + 3) / 3);
    }
  });
});

describe('the reference page', () => {
  const docs = fileURLToPath(new URL('../../../docs/', import.meta.url));

  it('in docs is what the operation table says (npm run reference)', () => {
    expect(readFileSync(join(docs, 'wake.md'), 'utf8')).toBe(referencePage());
  });

  it('has a picture of each operation that shows something, as docs do', () => {
    for (const operation of OPERATIONS) {
      expect(existsSync(join(docs, 'wake', `${operation.name}.png`))).toBe(true);
      expect(PNG.sync.read(Buffer.from(examplePicture(operation)))).toMatchObject({ width: 96, height: 96 });
    }
  });
});

describe('estela export --gltf and estela import', () => {
  const vane = fileURLToPath(new URL('../../../demo/starts/turning-vane.wake', import.meta.url));
  const glb = join(folder, 'gltf', 'vane.glb');
  const back = join(folder, 'gltf', 'back');

  it('writes a material on a mesh, tells what it says, and brings it back', () => {
    const told = estela('export', vane, '--gltf', glb, '--mesh', 'sphere', '--size', '64', '--json');
    expect(told.status).toBe(0);
    expect(JSON.parse(told.out)).toMatchObject({
      file: glb,
      materials: [{ material: 'Turning vane', slots: [{ slot: 'baseColor', fidelity: 'keyed', size: [64, 64] }] }],
    });
    expect(readFileSync(glb).subarray(0, 4).toString()).toBe('glTF');
    expect(estela('import', glb, '--out', back).status).toBe(0);
    expect(readdirSync(back).sort()).toEqual(['Turning vane base colour.png', 'turning-vane.wake', 'vane.glb']);
    expect(readFileSync(join(back, 'turning-vane.wake'), 'utf8')).toContain('uv |> spin(1 lap, pivot: (0.5, 0.5))');
    const again = estela(
      'export',
      join(back, 'turning-vane.wake'),
      '--sources',
      back,
      '--gltf',
      glb,
      '--mesh',
      join(back, 'vane.glb'),
    );
    expect([again.status, again.out]).toEqual([0, expect.stringContaining('keyed')]);
  });

  it.each([
    [['--mesh', 'pyramid'], '--mesh takes'],
    [['--mesh', 'nowhere.glb'], 'cannot be read'],
    [['--size', '500'], '--size takes'],
    [['--frames', '9999'], '--frames goes'],
    [['--images', 'bmp'], '--images takes'],
  ])('refuses %j in words', (options, words) => {
    expect(estela('export', vane, '--gltf', join(folder, 'no.glb'), ...options)).toMatchObject({
      status: 2,
      err: expect.stringContaining(words) as unknown,
    });
    expect(existsSync(join(folder, 'no.glb'))).toBe(false);
  });

  it('asks what to write, and refuses what is no glTF', () => {
    expect(estela('export', vane)).toMatchObject({ status: 2, err: expect.stringContaining('--gltf') as unknown });
    const broken = join(folder, 'broken.glb');
    writeFileSync(broken, 'glTF and nothing');
    expect(estela('import', broken, '--out', back)).toMatchObject({
      status: 2,
      err: expect.stringContaining('is a broken GLB file') as unknown,
    });
    expect(estela('import', vane, '--out', back)).toMatchObject({
      status: 2,
      err: expect.stringContaining('not a .glb') as unknown,
    });
  });
});
