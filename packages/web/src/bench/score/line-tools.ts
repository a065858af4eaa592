import { dissolvesOf, writtenRamp, type RampEasing, type WrittenStop } from '@estela/core';
import { type Range, type TransactionSpec } from '@codemirror/state';
import { Decoration, WidgetType } from '@codemirror/view';
import { tokens } from '../../ui/tokens.ts';
import type { Derived } from '../../material/look.ts';
import { rampPicture } from '../panel/ramp-picture.ts';
import type { PanelTab } from '../session.ts';
import { decorationsField } from './decorations.ts';

/** Opens a tab of the panel under the Stage. */
export type OpenPanel = (tab: PanelTab) => void;

const { field, set: setTools } = decorationsField();

/** What stands behind a line to open it in place: the strip of a ramp, the explanation of a dissolve. */
export const lineTools = field;

function button(label: string, open: () => void): HTMLButtonElement {
  const element = document.createElement('button');
  element.type = 'button';
  element.className = 'cm-tool';
  element.setAttribute('aria-label', label);
  element.title = label;
  element.addEventListener('mousedown', (event) => {
    // The cursor of the Score stays where it is.
    event.preventDefault();
  });
  element.addEventListener('click', () => {
    open();
  });
  return element;
}

class RampStrip extends WidgetType {
  constructor(
    readonly name: string,
    readonly stops: readonly WrittenStop[],
    readonly easing: RampEasing,
    readonly open: OpenPanel,
  ) {
    super();
  }

  override eq(other: RampStrip): boolean {
    return (
      other.name === this.name &&
      other.easing === this.easing &&
      JSON.stringify(other.stops) === JSON.stringify(this.stops)
    );
  }

  toDOM(): HTMLElement {
    const element = button(`Edit the ramp ${this.name}`, () => {
      this.open({ kind: 'ramp', name: this.name });
    });
    element.classList.add('cm-strip');
    element.style.backgroundImage = `url(${rampPicture(this.stops, this.easing, 96)}), repeating-conic-gradient(${tokens.row} 0 25%, ${tokens.raise} 0 50%)`;
    element.style.backgroundSize = '100% 100%, 8px 8px';
    return element;
  }

  override ignoreEvent(): boolean {
    return true;
  }
}

class ExplainTool extends WidgetType {
  constructor(
    readonly index: number,
    readonly step: string,
    readonly open: OpenPanel,
  ) {
    super();
  }

  override eq(other: ExplainTool): boolean {
    return other.index === this.index && other.step === this.step;
  }

  toDOM(): HTMLElement {
    const element = button(`Explain the dissolve of ${this.step}`, () => {
      this.open({ kind: 'dissolve', index: this.index });
    });
    element.textContent = 'explain';
    return element;
  }

  override ignoreEvent(): boolean {
    return true;
  }
}

/** The tools of a text. */
export function showTools({ program, text }: Derived, open: OpenPanel): TransactionSpec {
  const ranges: Range<Decoration>[] = [];
  const put = (at: number, widget: WidgetType): void => {
    if (at <= text.length) ranges.push(Decoration.widget({ widget, side: 1 }).range(at));
  };
  for (const { name, span } of program.ramps) {
    const written = writtenRamp(program.tree, name);
    if (written && written.stops.length >= 2) put(span.to, new RampStrip(name, written.stops, written.easing, open));
  }
  dissolvesOf(program).forEach(({ step, call }, index) => {
    // Behind the line on which the call ends.
    const end = text.indexOf('\n', call.to);
    const line = text.slice(call.to, end === -1 ? text.length : end);
    const comment = line.indexOf('//');
    put(
      call.to + (comment >= 0 ? line.slice(0, comment).trimEnd().length : line.trimEnd().length),
      new ExplainTool(index, step.name, open),
    );
  });
  return { effects: setTools.of(Decoration.set(ranges, true)) };
}
