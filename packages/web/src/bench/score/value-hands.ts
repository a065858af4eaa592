import { literalAt, nudge, type LiteralAt } from '@estela/core';
import { type Extension, type Range, type TransactionSpec } from '@codemirror/state';
import { Decoration, EditorView, keymap, WidgetType } from '@codemirror/view';
import type { DocumentStore } from '../document-store.ts';
import type { Derived } from '../../material/look.ts';
import type { ValueState } from '../session.ts';
import { decorationsField } from './decorations.ts';

/** Opens the control of a value in place. */
export type OpenValue = (at: ValueState['at']) => void;

/** Pixels a hand moves before a press is a drag, and for one step then. */
const THRESHOLD = 3;
const PER_STEP = 4;

const { field: glyphs, set: setGlyphs } = decorationsField();

const LABELS: Partial<Record<LiteralAt['kind'], string>> = {
  angle: 'Set the angle',
  vec2: 'Set the point',
  color: 'Set the colour',
};

/** A small button before a value: the angle's hand, the point's place, the colour's field. */
class Glyph extends WidgetType {
  constructor(
    readonly kind: LiteralAt['kind'],
    readonly text: string,
    readonly value: readonly number[],
    readonly open: OpenValue,
  ) {
    super();
  }

  override eq(other: Glyph): boolean {
    return other.kind === this.kind && other.text === this.text;
  }

  toDOM(view: EditorView): HTMLElement {
    const button = document.createElement('button');
    button.type = 'button';
    button.className = `cm-glyph cm-glyph-${this.kind}`;
    button.title = LABELS[this.kind] ?? '';
    button.setAttribute('aria-label', `${LABELS[this.kind] ?? ''} ${this.text}`);
    button.tabIndex = -1;
    if (this.kind === 'color') button.style.backgroundColor = this.text;
    else {
      const [x = 0, y = 0] = this.value;
      const turn = (this.text.includes('turn') ? x : x / 360) * 2 * Math.PI;
      const mark =
        this.kind === 'angle'
          ? `<circle cx="6" cy="6" r="5"/><path d="M6 6L${String(6 + 5 * Math.cos(turn))} ${String(6 - 5 * Math.sin(turn))}"/>`
          : `<path d="M.5 .5H11.5V11.5H.5Z"/><circle cx="${String(1 + 10 * Math.min(Math.max(x, 0), 1))}" cy="${String(1 + 10 * Math.min(Math.max(y, 0), 1))}" r="1.3"/>`;
      button.innerHTML = `<svg width="12" height="12" viewBox="0 0 12 12" fill="none" stroke="currentColor" aria-hidden="true">${mark}</svg>`;
    }
    button.addEventListener('mousedown', (event) => {
      event.preventDefault();
    });
    button.addEventListener('click', () => {
      const box = button.getBoundingClientRect();
      this.open({ from: view.posAtDOM(button), left: box.left, top: box.bottom + 4 });
    });
    return button;
  }

  override ignoreEvent(): boolean {
    return true;
  }
}

const choice = Decoration.mark({ class: 'cm-choice' });

/** The buttons and menus of a text's values. */
export function showValues({ program, text }: Derived, open: OpenValue): TransactionSpec {
  const ranges: Range<Decoration>[] = [];
  const put = (literal: LiteralAt | undefined): void => {
    if (!literal || literal.to > text.length) return;
    const written = text.slice(literal.from, literal.to);
    ranges.push(
      Decoration.widget({ widget: new Glyph(literal.kind, written, literal.value, open), side: 1 }).range(literal.from),
    );
  };
  program.tree.tokens.forEach((token, i) => {
    const { kind, from, unit } = token;
    if (kind === 'color') put(literalAt(program, from));
    else if (kind === 'number' && (unit === 'deg' || unit === 'turn')) put(literalAt(program, from));
    else if (token.text === '(' && program.tree.tokens[i - 1]?.kind !== 'name') {
      const literal = literalAt(program, from);
      if (literal?.kind === 'vec2' && literal.from === from) put(literal);
    } else if (
      kind === 'name' &&
      /^[(,:"]|^name$|^string$/.test(
        program.tree.tokens[i - 1]?.kind === 'symbol'
          ? program.tree.tokens[i - 1]!.text
          : (program.tree.tokens[i - 1]?.kind ?? ''),
      )
    ) {
      const literal = literalAt(program, from);
      if (literal?.kind === 'keyword' && literal.from === from)
        ranges.push(choice.range(literal.from, Math.min(literal.to, text.length)));
    }
  });
  return { effects: setGlyphs.of(Decoration.set(ranges, true)) };
}

const fineness = (event: { shiftKey: boolean }): number => (event.shiftKey ? 10 : 1);

/** Scrubbing of numbers, and menus of keywords, where they stand. */
export function valueHands(document: DocumentStore, open: OpenValue): Extension {
  const literal = (at: number): LiteralAt | undefined => literalAt(document.getState().derived.program, at);
  const move = (at: number, steps: number, group: string | undefined): void => {
    const found = literal(at);
    if (found) document.edit(nudge(found, steps), group);
  };

  /** Follows a hand that pressed on a number: a drag scrubs, a press alone puts the cursor. */
  const follow = (view: EditorView, down: MouseEvent, at: number): void => {
    const start = literal(at);
    if (!start) return;
    const { from } = start;
    let moved = false;
    const onMove = (event: PointerEvent): void => {
      const away = event.clientX - down.clientX;
      if (!moved && Math.abs(away) < THRESHOLD) return;
      if (!moved) {
        moved = true;
        document.setDragging(true);
        view.dom.classList.add('cm-scrubbing');
      }
      const now = literal(from);
      if (!now || now.kind === 'color' || now.kind === 'vec2') return;
      // From the value at the start, so that going back leads back.
      const steps = Math.round(away / PER_STEP) * fineness(event);
      document.edit(nudge({ ...start, from: now.from, to: now.to }, steps), 'drag');
    };
    const up = (event: PointerEvent): void => {
      removeEventListener('pointermove', onMove);
      removeEventListener('pointerup', up);
      removeEventListener('pointercancel', up);
      view.dom.classList.remove('cm-scrubbing');
      if (moved) {
        document.setDragging(false);
        return;
      }
      const position = view.posAtCoords({ x: event.clientX, y: event.clientY }) ?? at;
      const now = literal(from);
      view.focus();
      view.dispatch({ selection: down.detail >= 2 && now ? { anchor: now.from, head: now.to } : { anchor: position } });
    };
    addEventListener('pointermove', onMove);
    addEventListener('pointerup', up);
    addEventListener('pointercancel', up);
  };

  const key =
    (steps: number) =>
    (view: EditorView): boolean => {
      const at = view.state.selection.main.head;
      const found = literal(at);
      if (!found || (found.kind !== 'number' && found.kind !== 'angle')) return false;
      move(at, steps, `keys ${String(found.from)}`);
      return true;
    };
  return [
    glyphs,
    keymap.of([
      { key: 'Mod-ArrowUp', run: key(1), shift: key(10), preventDefault: true },
      { key: 'Mod-ArrowDown', run: key(-1), shift: key(-10), preventDefault: true },
      {
        key: 'Alt-Enter',
        run(view) {
          const at = view.state.selection.main.head;
          const found = literal(at);
          const box = found && view.coordsAtPos(found.from);
          if (!box) return false;
          open({ from: found.from, left: box.left, top: box.bottom + 4 });
          return true;
        },
      },
    ]),
    EditorView.domEventHandlers({
      mousedown(event, view) {
        const target = event.target as HTMLElement;
        if (event.button !== 0 || event.shiftKey || event.altKey || event.ctrlKey || event.metaKey) return false;
        const at = view.posAtCoords({ x: event.clientX, y: event.clientY });
        if (at === null) return false;
        if (target.closest('.cm-number')) {
          const found = literal(at);
          if (!found || found.kind === 'color') return false;
          event.preventDefault();
          follow(view, event, at);
          return true;
        }
        return false;
      },
      click(event, view) {
        const target = (event.target as HTMLElement).closest('.cm-choice');
        if (!target) return false;
        const found = literal(view.posAtDOM(target));
        const box = target.getBoundingClientRect();
        if (found) open({ from: found.from, left: box.left, top: box.bottom + 4 });
        return false;
      },
      wheel(event, view) {
        if (!event.altKey || !(event.target as HTMLElement).closest('.cm-number')) return false;
        const at = view.posAtCoords({ x: event.clientX, y: event.clientY });
        const found = at === null ? undefined : literal(at);
        if (!found) return false;
        event.preventDefault();
        move(found.from, (event.deltaY < 0 ? 1 : -1) * fineness(event), `wheel ${String(found.from)}`);
        return true;
      },
    }),
  ];
}
