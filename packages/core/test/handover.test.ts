import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { describe, expect, it } from '@jest/globals';
import { Ajv2020 } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import {
  cHeader,
  compile,
  emitShader,
  evaluateFrame,
  HLSL,
  INPUT_NAMES,
  jsModule,
  jsTypes,
  OPERATIONS,
  packageCode,
  packageName,
  TARGETS,
  userValue,
  type PixelInput,
} from '../src/index.ts';
import { MOMENT, sampled } from './judging.ts';
import { hostile } from './hostile-names.ts';
import { program } from './random-programs.ts';
import { checked, demoMaterials } from './support.ts';
import { packageShaders } from '../src/exchange/package/shaders.ts';

const folder = mkdtempSync(join(tmpdir(), 'estela-handover-'));
const tool = (name: string, debian: string, args: readonly string[]): string => {
  const { status, stdout, stderr, error } = spawnSync(name, args, { encoding: 'utf8' });
  if (error) throw new Error(`${name} (Debian: ${debian}) cannot be run: ${error.message}`);
  return status === 0 ? '' : `${args.join(' ')}\n${stdout}${stderr}`;
};
/** What a compiler of HLSL says to a fragment stage, or the judge of SPIR-V to what it becomes. */
const hlslComplaints = (path: string): string => {
  const spirv = `${path}.spv`;
  return (
    tool('glslangValidator', 'glslang-tools', ['-D', '-V', '-S', 'frag', '-e', 'main', path, '-o', spirv]) ||
    tool('spirv-val', 'spirv-tools', [spirv])
  );
};
const examples = OPERATIONS.map(({ name, example }) => ({ name, text: example }));
const all = [
  ...examples,
  ...demoMaterials,
  ...fc.sample(program, sampled(40, 6)).map((text, i) => ({ name: `random-${String(i)}`, text })),
  ...hostile.map((text, i) => ({ name: `hostile-${String(i)}`, text })),
];

describe('a package is called', () => {
  it('by what is left of its title, never as a word of a language', () => {
    expect(packageName('Mist curtain')).toEqual({ file: 'mist-curtain', identifier: 'mist_curtain' });
    expect(packageName('  Crème brûlée, No. 2!')).toEqual({
      file: 'creme-brulee-no-2',
      identifier: 'creme_brulee_no_2',
    });
    expect(packageName('\u4e2d')).toEqual({ file: 'material', identifier: 'material' });
    expect(packageName('3 rings').identifier).toBe('material_3_rings');
    expect(packageName('CON').file).toBe('material-con');
    for (const word of ['float', 'main', 'Discard', 'gl x', 'lerp', 'typedef', 'fn', 'await'])
      expect(packageName(word).identifier).toMatch(/^material_/);
  });
});

describe('a material is written', () => {
  it('enough hostile ones among them', () => {
    expect(hostile.length).toBeGreaterThan(20);
  });

  it('as HLSL of Shader Model 5 that a compiler takes, and whose SPIR-V is valid', () => {
    const inputs: Record<PixelInput, string> = {
      uv: 'v_uv',
      uv2: 'v_uv',
      screen: 'v_uv',
      position: 'float3(v_uv, 0.0)',
      world: 'float3(v_uv, 0.0)',
      vertex_color: 'float4(v_uv, v_uv)',
      facing: 'v_uv.x',
      depth_behind: 'v_uv.y',
    };
    const complaints = all.map(({ name, text }) => {
      const { graph } = compile(text);
      // Every step is asked for, so that nothing is left out.
      const results = new Map(
        graph.program.steps.map((s, i) => [`${s.name.replace(/_$/, '')}_${String(i)}`, graph.steps[i]!]),
      );
      const { identifier } = packageName(graph.program.title);
      const made = emitShader(HLSL, graph, results, identifier);
      const { names } = made;
      const sum = made.outputs.map((o) => `(float)(o.${o.name}${o.type.endsWith('1') ? '' : '.x'})`).join(' + ');
      const path = join(folder, `${name}.frag`);
      writeFileSync(
        path,
        `${made.code}\ncbuffer host : register(b0) { ${names.Dials} host_dials; float host_time; };\nfloat4 main(float2 v_uv : TEXCOORD0) : SV_Target {\n  ${names.Outputs} o = ${names.material}(${[...made.inputs.map((i) => inputs[i]), `${names.frame}(host_dials, host_time)`].join(', ')});\n  return (float4)(${sum || '0.0'});\n}\n`,
      );
      return hlslComplaints(path);
    });
    expect(complaints.filter((c) => c !== '')).toEqual([]);
    expect(Object.keys(inputs)).toEqual(Object.keys(INPUT_NAMES));
  });

  it('with a frame that C, JavaScript and the reference agree on to a digit of 32 bits', async () => {
    const times = [0, 0.37, MOMENT, 7.25];
    const models = all.map(({ name, text }) => ({ title: name, ...packageShaders(checked(text), {})[0] }));
    const prints = models.map(({ shader }, m) =>
      [
        `  { m${String(m)}_dials dials = m${String(m)}_default_dials(); m${String(m)}_frame_values frame;`,
        ...times.map((time) =>
          [
            `    m${String(m)}_frame(&dials, ${String(time)}, &frame);`,
            ...shader.uniforms.flatMap(({ name, type }) =>
              Array.from({ length: Number(type[1]) }, (_, i) => {
                const field = `frame.${name}${type[1] === '1' ? '' : `[${String(i)}]`}`;
                return `    printf("%.9g\\n", (double)${field});`;
              }),
            ),
          ].join('\n'),
        ),
        '  }',
      ].join('\n'),
    );
    models.forEach((model, m) => {
      writeFileSync(join(folder, `m${String(m)}.h`), cHeader(model, `m${String(m)}`));
    });
    const source = join(folder, 'frames.c');
    const heads = models.map((_, m) => `#include "m${String(m)}.h"`).join('\n');
    writeFileSync(source, `#include <stdio.h>\n${heads}\nint main(void) {\n${prints.join('\n')}\n  return 0;\n}\n`);
    const flags = ['-std=c99', '-Wall', '-Wextra', '-Werror', '-pedantic'];
    expect(tool('gcc', 'gcc', [...flags, source, '-lm', '-o', join(folder, 'frames')])).toBe('');
    const printed = spawnSync(join(folder, 'frames'), { encoding: 'utf8' }).stdout.trim().split('\n').map(Number);

    const apart = (a: number, b: number): number => {
      const bits = (x: number): number => new Int32Array(new Float32Array([x === 0 ? 0 : x]).buffer)[0]!;
      return Object.is(Math.fround(a), Math.fround(b)) ? 0 : Math.abs(bits(a) - bits(b));
    };
    const faults: string[] = [];
    let next = 0;
    for (const [m, model] of models.entries()) {
      const path = join(folder, `m${String(m)}.mjs`);
      writeFileSync(path, jsModule(model));
      writeFileSync(join(folder, `m${String(m)}.d.ts`), jsTypes(model));
      const module = (await import(pathToFileURL(path).href)) as {
        readonly frame: (dials: object, seconds: number) => Record<string, number | number[]>;
      };
      const { uniforms } = model.shader;
      for (const time of times) {
        const frame = module.frame({}, time);
        // The host's functions start over after the period.
        const period = model.returns?.seconds ?? Infinity;
        const values = evaluateFrame(
          uniforms.map((u) => u.node),
          {
            time: Number.isFinite(period) ? time - period * Math.floor(time / period) : time,
            dials: model.values.dials,
          },
        );
        for (const { name, node } of uniforms) {
          const js = [frame[name]!].flat();
          values.get(node)!.forEach((value, i) => {
            const c = printed[next++]!;
            if (apart(js[i]!, value) > 1 || apart(c, value) > 1)
              faults.push(
                `${model.title} ${name}[${String(i)}] at ${String(time)}: ${String(value)}, JavaScript ${String(js[i])}, C ${String(c)}`,
              );
          });
        }
      }
    }
    expect(next).toBe(printed.length);
    expect(next).toBeGreaterThan(200);
    expect(faults).toEqual([]);
  }, 1_200_000);

  it('as complete stages and a manifest that its schema takes, in every variant', () => {
    const ajv = new Ajv2020({ allErrors: true, strictTypes: false });
    const valid = ajv.compile(
      JSON.parse(readFileSync(new URL('../../../docs/manifest.schema.json', import.meta.url), 'utf8')) as object,
    );
    const complaints: string[] = [];
    for (const { name, text } of [
      ...demoMaterials,
      ...hostile.slice(0, 12).map((t, i) => ({ name: `h${String(i)}`, text: t })),
    ]) {
      const { program: of } = compile(text);
      for (const variant of [undefined, ...of.variants.map((v) => v.name)]) {
        const files = packageCode(of, { targets: TARGETS, variant });
        const { file, identifier } = packageName(of.title);
        const where = join(folder, `${name}-${String(variant)}`.replace(/[^\w-]/g, '_'));
        mkdirSync(where, { recursive: true });
        for (const [path, content] of files) writeFileSync(join(where, path), content);
        // One stage for each way that variants set the switches.
        for (const path of files.keys())
          if (path.endsWith('.main.glsl'))
            complaints.push(tool('glslangValidator', 'glslang-tools', ['-S', 'frag', join(where, path)]));
          else if (path.endsWith('.main.hlsl')) complaints.push(hlslComplaints(join(where, path)));
        const manifest = JSON.parse(files.get(`${file}.json`)!) as { readonly files: string[] };
        if (!valid(manifest)) complaints.push(`${name}: ${ajv.errorsText(valid.errors)}`);
        expect([...files.keys()].sort()).toEqual([...manifest.files].sort());
        // All that is declared outside functions begins with the name: two packages go into one shader.
        const declared = [
          ...files.get(`${file}.glsl`)!.matchAll(/^(?:uniform \w+|struct|\w+) (\w+)(?:;|\(| \{)/gm),
        ].map(([, n]) => n!);
        expect(declared.length).toBeGreaterThan(3);
        expect(declared.filter((n) => n !== identifier && !n.startsWith(`${identifier}_`))).toEqual([]);
      }
    }
    expect(complaints.filter((c) => c !== '')).toEqual([]);
  });

  it('with dials in the units that its text has', () => {
    const { program: of } = compile(
      'loop 4s at 30fps\ndial turn: angle = 90deg\ndial speed: rate = 0.5/s\ndial tint: color = #ffffff\nout color = uv.x * turn * speed * tint.r\n',
    );
    const shown = of.dials.map((d) => userValue(d, d.value, of.loop));
    expect(shown).toEqual([[90], [0.5], [1, 1, 1, 1]]);
  });
});
