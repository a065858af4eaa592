import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import {
  Baker,
  check,
  encodePng,
  FAMILIES,
  flowsIn,
  lapsText,
  OPERATIONS,
  parse,
  settingValues,
  type Operation,
  type OperationParameter,
} from '@estela/core';

/** Side of an example's picture, in pixels. */
const SIDE = 96;

const INTRODUCTION = `# Wake

The language of Estela. A material is one text, one statement a line. A line whose brackets are open goes on, and so
does one that is followed by a line starting with \`|>\`. \`//\` starts a comment. The operations below are written
from the table that the checker, the editor and the back ends read: \`npm run reference\` writes this page anew.

\`\`\`
material "Mist"
loop 6s at 30fps
surface unlit blend two-sided

dial fall: laps = 2 in -6..6     "Sheets that pass in one loop"
switch bright = on
image vapour = "mist-a.png" repeat linear color
ramp glint = 0% #00000000, 100% #ffffff smooth
op slide(at: vec2, speed: rate) = at |> pan(speed, heading: 180deg)

flow  = uv |> tile(2, 1) |> slide(fall)
film  = flow |> sample(vapour)
off film = film |> brightness(2)          // kept, switched off
out color   = film
out opacity = film.a * (0.5 + bright * 0.5)

variant "Still" { fall = 0, bright = off }
\`\`\`

## Statements

| statement | says |
|---|---|
| \`material "Title"\` | the title |
| \`loop TIME at NUMBERfps\` | length and frame rate; a whole number of frames, 0 to N - 1. \`loop 4s at 30fps\` where it is left out |
| \`surface WORDS\` | \`lit\` or \`unlit\`; \`opaque\`, \`mask\`, \`blend\` or \`add\`; \`one-sided\` or \`two-sided\` |
| \`dial NAME: TYPE = VALUE in LOW..HIGH by STEP "help"\` | an exposed parameter: \`number\`, \`laps\`, \`rate\`, \`time\`, \`angle\`, \`vec2\` or \`color\`; range, step and help may be left out |
| \`switch NAME = on "help"\` | an exposed on or off, settled when compiling; 1 or 0 in expressions |
| \`image NAME = "source" WORDS\` | \`repeat\`, \`mirror\` or \`clamp\`; \`linear\` or \`nearest\`; \`color\`, \`data\` or \`normal\` |
| \`ramp NAME = 0% COLOR, 100% COLOR WORD\` | \`linear\`, \`smooth\` or \`stepped\` |
| \`op NAME(arg: type = VALUE) = EXPRESSION\` | an operation of your own, or \`{ steps ... return EXPRESSION }\` |
| \`NAME = EXPRESSION\` | a step; a name may be bound again, and lines below see the newest |
| \`out CHANNEL = EXPRESSION\` | \`color\`, \`normal\`, \`metallic\`, \`roughness\`, \`emissive\`, \`opacity\`, \`cutoff\` or \`refraction\` |
| \`off\` before a step or output | skips the line; on a first binding the step is \`uv\` or 0 |
| \`variant "Name" { NAME = VALUE, ... }\` | other values for dials and switches |

Expressions, loosest first: \`|>\`; \`< <= > >= ==\`; \`+ -\`; \`* /\`; unary \`-\`; \`.xyzw\` or \`.rgba\` and calls. \`x |> f(a)\`
is \`f(x, a)\`, and \`x |> off f(a)\` is \`x\`. Arguments go by place, then by name.

A comment on a line of its own above dials and switches heads a group of them, until the next such comment or a blank line.

## Units

| written | is |
|---|---|
| \`1.5s\` \`200ms\` \`3 frames\` | a time |
| \`90deg\` \`0.25turn\` | an angle; positive turns the picture counter-clockwise |
| \`2 laps\` | a rate: two whole periods a loop, which always closes it |
| \`0.3/s\` | a rate: three periods in ten seconds |
| \`40%\` | 0.4 |
| \`#9fd8e6\` \`#9fd8e680\` | a colour: sRGB, decoded to linear light; alpha as it is |

A time times a rate is a number; a number times anything keeps its unit; a value over another of its unit is a
number. A heading says where the *picture* goes: 0deg right, 90deg up, 180deg left, 270deg down.

## Values that are there

\`uv\` and \`uv2\` (top left is 0, 0), \`screen\` (0..1), \`position\` and \`world\` (metres), \`vertex_color\`, \`time\`,
\`phase\` (0..1 through the loop), \`frame\`, \`loop_seconds\`.

## What a number is, what a claim means

Numbers are 32-bit floats (IEEE 754). Values that differ from pixel to pixel are computed in them; what is the same over
a frame, such as all that is made of dials and time alone, is computed in 64 bits and handed to the pixels in 32.

- A literal, or what constants come to, beyond 3.4e38 is an error, with a fix.
- Division by 0 is 0. So are roots and logarithms of what has none, and the angle of (0, 0). 0 to the power 0 is 1.
- In between IEEE 754 goes on: a sum may overflow, and what is made of that may be no number. **At an output, and in what
  is shown of a step, what is not finite is 0.** So is a coordinate of an image that is not finite, or more than two million
  texels from the first. A float becomes a whole number by dropping its fraction, held to 32 bits; no number becomes 0.
- \`exp\`, \`log\`, \`sin\`, \`cos\`, \`power\` and \`atan\` of what is not finite are 0. \`exp\` and \`power\` stop at e^88. A pixel's
  \`sin\` and \`cos\` take angles up to 65536 radians, and are 0 beyond; give them turns between 0 and 1.
- Noise has 1 to 2^22 cells along an axis.

The reference evaluator and the WebAssembly back end keep to all of this, bit for bit but for the functions of the fourth
point, whose bounds are stated in code and held by tests. A shader promises the same as long as what is computed on the way
is finite, and 0 or at least 1.2e-38 from it; graphics hardware leaves the rest open.

A **claim** (the loop closes; it tiles) is about exact numbers: 0.1 is a tenth, and \`turn(90deg)\` is a quarter. "At every
setting" means every setting of the dials within their ranges, and of the switches; a dial without a range may be anything.
Where a hard step, such as that of \`floor\`, \`pixelate\` or \`checker\`, lies within a few roundings of a value, pixels may
fall on either side of it: there, and only there, a picture may differ from a true claim. Give such a step room
(\`offset\` by a hair), and it will not. What moves by a plain number
is open by the same rule, even where a float that is a million times as large does not show it.
`;

const WORDS: Readonly<Record<string, string>> = {
  color: 'colour',
  vector: 'number or vector',
  quantity: 'any value',
  radians: 'angle, or number of radians',
};

function shownDefault(p: OperationParameter): string {
  const [accepts] = p.accepts;
  if (p.default === undefined) return p.optional === true ? 'optional' : '';
  if (typeof p.default === 'string') return `\`${p.default}\``;
  if (typeof p.default === 'object') return `\`(${p.default.join(', ')})\``;
  return `\`${accepts === 'angle' ? `${String(p.default * 360)}deg` : accepts === 'rate' ? lapsText(p.default) : String(p.default)}\``;
}

function shownRange(p: OperationParameter): string {
  if (p.options) return p.options.map((o) => `\`${o}\``).join(' ');
  if (!p.range) return '';
  const factor = p.accepts[0] === 'angle' ? 360 : 1;
  return `${String(p.range[0] * factor)} to ${String(p.range[1] * factor)}`;
}

/** How the operation is written after `|>`, or called where nothing flows in. */
function signature(o: Operation): string {
  const [first, ...rest] = o.parameters;
  const flows = flowsIn(o);
  const inside = (flows ? rest : o.parameters).map((p) => (p.named === true ? `${p.name}:` : p.name)).join(', ');
  return `${flows ? `${first?.name ?? ''} |> ` : ''}${o.name}(${inside})`;
}

function section(o: Operation): string {
  const rows = o.parameters.map(
    (p) =>
      `| \`${p.name}\` | ${p.accepts.map((a) => WORDS[a] ?? a).join(' or ')} | ${shownDefault(p)} | ${shownRange(p)} | ${p.help} |`,
  );
  return `### ${o.name}

![${o.summary}](wake/${o.name}.png)

\`${signature(o)}\` gives a ${o.result === 'widest' ? 'value of the kind that flows in' : o.result}. **${o.summary}.**

${o.help}
${o.parameters.length === 0 ? '' : `\n| argument | takes | default | usual range | |\n|---|---|---|---|---|\n${rows.join('\n')}\n`}
\`\`\`
${o.example.replace(/^loop 4s at 30fps\n/, '').trim()}
\`\`\`
`;
}

/** The reference of the language, in Markdown. */
export function referencePage(): string {
  const families = Object.entries(FAMILIES).map(([family, title]) => {
    const of = OPERATIONS.filter((o) => o.family === family);
    return `## ${title}\n\n${of.map((o) => `[${o.name}](#${o.name})`).join(' ')}\n\n${of.map(section).join('\n')}`;
  });
  return `${INTRODUCTION}\n# Operations\n\nPictures show the example a third of the way through its loop of 4 s.\n\n${families.join('\n')}`;
}

/** An example's colour a third of the way through its loop, as a PNG file. */
export function examplePicture(operation: Operation): Uint8Array {
  const program = check(parse(operation.example));
  const baker = Baker.of(
    program,
    settingValues(program),
    { output: 'color', width: SIDE, height: SIDE, samples: 2 },
    () => undefined,
  );
  const data = baker?.frame(Math.floor(program.loop.frames / 3)) ?? new Uint8Array(SIDE * SIDE * 4);
  return encodePng({ width: SIDE, height: SIDE, data }, (bytes) => deflateSync(bytes, { level: 9 }));
}

/** Writes wake.md and its pictures into a folder. */
export async function writeReference(folder: string): Promise<void> {
  await mkdir(join(folder, 'wake'), { recursive: true });
  await writeFile(join(folder, 'wake.md'), referencePage());
  for (const operation of OPERATIONS)
    await writeFile(join(folder, 'wake', `${operation.name}.png`), examplePicture(operation));
}
