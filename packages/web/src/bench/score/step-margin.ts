import { setOff, setOffBelow, type Step } from '@estela/core';
import { RangeSet, StateEffect, StateField, type Extension, type Range, type TransactionSpec } from '@codemirror/state';
import { Decoration, EditorView, gutter, GutterMarker, type DecorationSet } from '@codemirror/view';
import { PICTURE_HEIGHT, PICTURE_WIDTH } from '../../workers/step-pictures.ts';
import type { DocumentStore } from '../document-store.ts';
import type { Derived } from '../../material/look.ts';
import { stepRefOf } from '../../material/step-ref.ts';
import type { SelectionStore } from '../selection.ts';
import type { StepPlayer } from './step-player.ts';

/** What the marks of the margin act on. */
export interface MarginHost {
  readonly document: DocumentStore;
  readonly player: StepPlayer;
  readonly selection: SelectionStore;
  /** Puts the cursor on a step and opens its card. */
  readonly openStep: (index: number) => void;
}

const setMargin = StateEffect.define<{ readonly markers: RangeSet<GutterMarker>; readonly lines: DecorationSet }>();

const margin = StateField.define<{ readonly markers: RangeSet<GutterMarker>; readonly lines: DecorationSet }>({
  create: () => ({ markers: RangeSet.of<GutterMarker>([]), lines: Decoration.none }),
  update(value, transaction) {
    let next = transaction.docChanged
      ? { markers: value.markers.map(transaction.changes), lines: value.lines.map(transaction.changes) }
      : value;
    for (const effect of transaction.effects) if (effect.is(setMargin)) next = effect.value;
    return next;
  },
  provide: (field) => EditorView.decorations.from(field, (value) => value.lines),
});

/** The mark of one step: a switch for its line, and its playing picture. */
class StepMark extends GutterMarker {
  constructor(
    readonly index: number,
    readonly name: string,
    readonly off: boolean,
    readonly broken: boolean,
    readonly host: MarginHost,
  ) {
    super();
  }

  override eq(other: GutterMarker): boolean {
    return (
      other instanceof StepMark &&
      other.index === this.index &&
      other.name === this.name &&
      other.off === this.off &&
      other.broken === this.broken
    );
  }

  override toDOM(): HTMLElement {
    const { document, player, selection, openStep } = this.host;
    const mark = globalThis.document.createElement('div');
    mark.className = 'cm-step-mark';
    const toggle = globalThis.document.createElement('button');
    toggle.type = 'button';
    toggle.className = 'cm-off-mark';
    toggle.setAttribute(
      'aria-label',
      `${this.off ? 'Switch on' : 'Switch off'} ${this.name}, line of step ${String(this.index + 1)}`,
    );
    toggle.setAttribute('aria-pressed', String(!this.off));
    toggle.title = `Switch this line ${this.off ? 'on' : 'off'}; with Alt, all steps from here`;
    toggle.addEventListener('click', (event) => {
      const { program } = document.getState().derived;
      const step = program.steps[this.index];
      if (step) document.edit((event.altKey ? setOffBelow : setOff)(program.tree, step.span.from, !step.off));
    });
    mark.append(toggle);
    if (this.broken) {
      const sign = globalThis.document.createElement('span');
      sign.className = 'cm-broken-picture';
      sign.textContent = 'error';
      mark.append(sign);
      return mark;
    }
    const show = globalThis.document.createElement('button');
    show.type = 'button';
    show.className = 'cm-picture';
    show.setAttribute('aria-label', `Show ${this.name} alone, step ${String(this.index + 1)}`);
    show.title = `Show '${this.name}' alone on the Stage`;
    const canvas = globalThis.document.createElement('canvas');
    [canvas.width, canvas.height] = [PICTURE_WIDTH, PICTURE_HEIGHT];
    show.append(canvas);
    show.addEventListener('click', () => {
      const { program } = document.getState().derived;
      selection.setState({ alone: stepRefOf(program, this.index) });
      openStep(this.index);
    });
    mark.append(show);
    player.show(canvas, this.index);
    return mark;
  }

  override destroy(dom: Node): void {
    const canvas = (dom as HTMLElement).querySelector('canvas');
    if (canvas) this.host.player.hide(canvas);
  }
}

const stepLine = Decoration.line({ class: 'cm-step-line' });

/** The marks of a text. */
export function showMargin({ program, text, diagnostics }: Derived, host: MarginHost): TransactionSpec {
  const errors = diagnostics.filter((d) => d.severity === 'error');
  const broken = ({ span }: Step): boolean => errors.some((d) => d.from >= span.from && d.from <= span.to);
  const markers: Range<GutterMarker>[] = [];
  const lines: Range<Decoration>[] = [];
  const seen = new Set<number>();
  program.steps.forEach((step, index) => {
    const start = text.lastIndexOf('\n', step.span.from - 1) + 1;
    if (start > text.length || seen.has(start)) return;
    seen.add(start);
    markers.push(
      new StepMark(index, step.kind === 'out' ? `out ${step.name}` : step.name, step.off, broken(step), host).range(
        start,
      ),
    );
    lines.push(stepLine.range(start));
  });
  return { effects: setMargin.of({ markers: RangeSet.of(markers, true), lines: Decoration.set(lines, true) }) };
}

/** The margin at the left of the lines. */
export const stepMargin: Extension = [
  margin,
  gutter({ class: 'cm-step-margin', markers: (view) => view.state.field(margin).markers }),
];
