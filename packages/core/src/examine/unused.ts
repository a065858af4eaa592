import type { Step, Typed } from '../check/program.ts';
import { say } from '../diagnostics/wording.ts';
import { removeExposed } from '../edits/dial-edits.ts';
import { removeLines } from '../edits/line-edits.ts';
import { findingAt, type Check, type Finding } from './finding.ts';

/** Steps that no output uses, and declarations that nothing uses. */
export const unused: Check = ({ program, expressions, live }) => {
  const { tree } = program;
  const named = new Set<string>();
  const used = new Set<Step>(program.steps.flatMap((s) => (s.before ? [s.before] : [])));
  const note = (typed: Typed): void => {
    if (typed.kind === 'step') used.add(typed.step);
    if (typed.kind === 'dial') named.add(typed.dial.name);
    if (typed.kind === 'switch') named.add(typed.of.name);
    if (typed.kind === 'image') named.add(typed.image.name);
    if (typed.kind === 'ramp') named.add(typed.ramp.name);
  };
  for (const { typed } of expressions) note(typed);
  const outputs = program.steps.some((s) => s.kind === 'out' && !s.off);
  const findings: Finding[] = outputs
    ? program.steps
        .filter((s) => s.kind === 'step' && !s.off && !live.has(s))
        // Lines that other lines read cannot go before those.
        .map((s) =>
          findingAt(
            say.unusedStep(s.name),
            s.nameSpan,
            used.has(s) ? [] : [{ title: 'Remove the line', edits: removeLines(tree.text, s.span) }],
            {
              step: s.index,
            },
          ),
        )
    : [];
  const exposed = [
    ...program.dials.map((d) => ({ ...d, what: 'dial' })),
    ...program.switches.map((s) => ({ ...s, what: 'switch' })),
  ];
  for (const { name, nameSpan, what } of exposed)
    if (!named.has(name))
      findings.push(
        findingAt(say.unusedName(what, name), nameSpan, [
          { title: `Remove ${name}`, edits: removeExposed(tree, name, '0') },
        ]),
      );
  const declared = [
    ...program.images.map((d) => ({ ...d, what: 'image' })),
    ...program.ramps.map((d) => ({ ...d, what: 'ramp' })),
  ];
  for (const { name, nameSpan, span, what } of declared)
    if (!named.has(name))
      findings.push(
        findingAt(say.unusedName(what, name), nameSpan, [
          { title: `Remove ${name}`, edits: removeLines(tree.text, span) },
        ]),
      );
  return findings;
};
