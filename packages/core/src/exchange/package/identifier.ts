import { C_WORDS, GLSL_WORDS, HLSL_WORDS, JAVASCRIPT_WORDS, WGSL_WORDS } from '../../backends/reserved.ts';

/** Names of files that some systems keep to themselves. */
const DEVICES = /^(con|prn|aux|nul|com\d|lpt\d)$/;

/** What a package is called: its files, and with `_` all that its code declares. */
export interface PackageName {
  /** Kebab case: `[a-z0-9-]`, at most 60 characters. */
  readonly file: string;
  /** An identifier in every language, which is none of their words. */
  readonly identifier: string;
}

/** A title's letters and digits, without accents, in lower case; `material` where nothing of it is left. */
export function packageName(title: string): PackageName {
  const words = title
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .match(/[a-z0-9]+/g);
  const plain = (words ?? []).join('-').slice(0, 60).replace(/-$/, '');
  const file = plain === '' ? 'material' : DEVICES.test(plain) ? `material-${plain}` : plain;
  const bare = file.replaceAll('-', '_');
  const isWord = [GLSL_WORDS, HLSL_WORDS, WGSL_WORDS, C_WORDS, JAVASCRIPT_WORDS].some((w) => w.has(bare));
  // Names that begin with gl_ are GLSL's, and none begins with a digit.
  return { file, identifier: isWord || /^(\d|gl_|gl$)/.test(bare) ? `material_${bare}` : bare };
}
