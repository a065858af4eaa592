import { spawnSync } from 'node:child_process';
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from '@jest/globals';

const root = fileURLToPath(new URL('../../../', import.meta.url));

describe('a new kind of node', () => {
  it('does not compile until every table over kinds knows it', () => {
    const folder = mkdtempSync(join(tmpdir(), 'estela-kinds-'));
    try {
      cpSync(join(root, 'packages/core/src'), join(folder, 'src'), { recursive: true });
      symlinkSync(join(root, 'node_modules'), join(folder, 'node_modules'));
      const options = { extends: join(root, 'tsconfig.base.json'), compilerOptions: { types: [] }, include: ['src'] };
      writeFileSync(join(folder, 'tsconfig.json'), JSON.stringify(options));
      const complaints = (): string[] => {
        const { stdout } = spawnSync(
          process.execPath,
          [join(root, 'node_modules/typescript7/bin/tsc'), '-p', folder, '--pretty', 'false'],
          {
            encoding: 'utf8',
          },
        );
        return [...new Set([...stdout.matchAll(/src\/([\w/-]+\.ts)\(/g)].map(([, file]) => file!))].sort();
      };
      expect(complaints()).toEqual([]);
      const node = join(folder, 'src/ir/node.ts');
      const text = readFileSync(node, 'utf8');
      expect(text).toContain('  neg: undefined;\n');
      writeFileSync(node, text.replace('  neg: undefined;\n', '  neg: undefined;\n  cube: undefined;\n'));
      expect(complaints()).toEqual([
        'backends/host/c.ts',
        'backends/host/javascript.ts',
        'backends/shader/glsl.ts',
        'backends/shader/hlsl.ts',
        'backends/shader/wgsl.ts',
        'backends/wasm/compile.ts',
        'backends/wasm/grid/terms.ts',
        'backends/wasm/grid/writing.ts',
        'backends/wasm/instructions.ts',
        'ir/kinds.ts',
        'prove/moves.ts',
        'prove/parity.ts',
        'prove/signs.ts',
      ]);
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  }, 240_000);
});
