import { linesOf, writtenRamp, type Program } from '@estela/core';
import { StateEffect, StateField, type EditorState, type Extension, type TransactionSpec } from '@codemirror/state';
import { Decoration, EditorView, keymap, WidgetType, type DecorationSet } from '@codemirror/view';
import type { Source } from '../../api/client.ts';
import type { Derived } from '../../material/look.ts';
import { sourceCanvas } from '../../project/source-picture.ts';
import type { SourcesStore } from '../../project/sources-store.ts';
import { recall, remember } from '../../ui/memory.ts';
import { rampPicture } from '../panel/ramp-picture.ts';
import type { OpenPanel } from './line-tools.ts';

/** What stands folded: where the settings end, and what they come to. */
interface Settings {
  readonly end: number;
  readonly title: string;
  readonly facts: string;
  readonly images: readonly { readonly name: string; readonly source: Source | undefined }[];
  readonly ramps: readonly { readonly name: string; readonly picture: string }[];
}

const counted = (count: number, what: string, more: string): string[] =>
  count === 0 ? [] : [`${String(count)} ${count === 1 ? what : more}`];

/** Everything before the first step, in a line; undefined where there is no step, or nothing before it. */
export function settingsOf({ tree, ...program }: Program, sources: readonly Source[]): Settings | undefined {
  const first = tree.statements.findIndex((s) => s.kind === 'step' || s.kind === 'out');
  const last = tree.statements[first - 1];
  if (!last) return undefined;
  const end = linesOf(tree.text, last).to;
  const before = (part: { readonly span: { readonly from: number } }): boolean => part.span.from < end;
  const [dials, switches, operations] = [program.dials, program.switches, program.operations].map(
    (list) => (list as readonly { span: { from: number } }[]).filter(before).length,
  ) as [number, number, number];
  const { seconds, fps } = program.loop;
  const surface = tree.statements.find((s) => s.kind === 'surface');
  return {
    end,
    title: program.title,
    facts: [
      `${String(seconds)} s, ${String(fps)} fps`,
      ...(surface
        ? [
            tree.text
              .slice(surface.from, surface.to)
              .replace(/^surface\s+/, '')
              .replace(/\s+/g, ' '),
          ]
        : []),
      [
        ...counted(dials, 'dial', 'dials'),
        ...counted(switches, 'switch', 'switches'),
        ...counted(operations, 'operation of your own', 'operations of your own'),
      ].join(', '),
    ]
      .filter((part) => part !== '')
      .join('   '),
    images: program.images
      .filter(before)
      .map(({ name, source }) => ({ name, source: sources.find((s) => s.name === source) })),
    ramps: program.ramps.filter(before).flatMap(({ name }) => {
      const written = writtenRamp(tree, name);
      return written && written.stops.length >= 2
        ? [{ name, picture: rampPicture(written.stops, written.easing, 64) }]
        : [];
    }),
  };
}

/** Unfolds, or folds again; unfolding by hand is remembered. */
const setFolded = StateEffect.define<boolean>();
const setSettings = StateEffect.define<Settings | undefined>();

interface Fold {
  readonly folded: boolean;
  readonly settings: Settings | undefined;
  readonly lines: DecorationSet;
}

/** How a material's settings were left, by its id; the newest few hundred that were unfolded. */
const KEY = 'estela.unfolded';
const unfoldedIds = (): string[] => {
  const { ids } = recall<{ ids: string[] }>(KEY);
  return Array.isArray(ids) ? ids.filter((id) => typeof id === 'string') : [];
};
function keepFolded(material: string, folded: boolean): void {
  const others = unfoldedIds().filter((id) => id !== material);
  remember(KEY, { ids: folded ? others : [...others, material].slice(-300) });
}

class SettingsLine extends WidgetType {
  constructor(
    readonly settings: Settings,
    readonly openPanel: OpenPanel,
  ) {
    super();
  }

  override eq({ settings }: SettingsLine): boolean {
    return JSON.stringify({ ...settings, end: 0 }) === JSON.stringify({ ...this.settings, end: 0 });
  }

  override get estimatedHeight(): number {
    return 32;
  }

  toDOM(view: EditorView): HTMLElement {
    const { title, facts, images, ramps } = this.settings;
    const line = document.createElement('div');
    line.className = 'cm-settings';
    const button = (className: string, label: string, act: () => void, ...inside: (Node | string)[]): void => {
      const element = document.createElement('button');
      element.type = 'button';
      element.className = className;
      element.title = label;
      element.setAttribute('aria-label', label);
      element.append(...inside);
      element.addEventListener('mousedown', (event) => {
        event.preventDefault();
      });
      element.addEventListener('click', act);
      line.append(element);
    };
    const span = (className: string, words: string): HTMLElement => {
      const element = document.createElement('span');
      element.className = className;
      element.textContent = words;
      return element;
    };
    button(
      'cm-settings-open',
      `Unfold the settings of ${title || 'this material'} (Ctrl+.)`,
      () => {
        view.dispatch({ effects: setFolded.of(false) });
        view.focus();
      },
      span('cm-settings-mark', '▸'),
      span('cm-word', 'material '),
      span('cm-text', `"${title}"`),
      span('cm-settings-facts', facts),
    );
    for (const { name, source } of images)
      button(
        'cm-settings-part',
        source ? `Show ${name}, ${source.name}, in the sources` : `${name} has no picture`,
        () => {
          this.openPanel({ kind: 'sources' });
        },
        sourceCanvas(source, 48),
        name,
      );
    for (const { name, picture } of ramps) {
      const strip = span('cm-settings-ramp', '');
      strip.style.backgroundImage = `url(${picture})`;
      button(
        'cm-settings-part',
        `Edit the ramp ${name}`,
        () => {
          this.openPanel({ kind: 'ramp', name });
        },
        strip,
        name,
      );
    }
    return line;
  }

  override ignoreEvent(): boolean {
    return true;
  }
}

/** At the start of unfolded settings: folds them. */
class FoldMark extends WidgetType {
  override eq(): boolean {
    return true;
  }

  toDOM(view: EditorView): HTMLElement {
    const element = document.createElement('button');
    element.type = 'button';
    element.className = 'cm-settings-fold';
    element.title = 'Fold the settings (Ctrl+.)';
    element.setAttribute('aria-label', element.title);
    element.textContent = '▾';
    element.addEventListener('mousedown', (event) => {
      event.preventDefault();
    });
    element.addEventListener('click', () => {
      view.dispatch({ effects: setFolded.of(true) });
    });
    return element;
  }

  override ignoreEvent(): boolean {
    return true;
  }
}

/**
 * The settings, which is everything before the first step, folded to one line: by a click or Ctrl+., by putting the
 * cursor into them, or by typing there they unfold. How they were left is kept for each material.
 */
export function settingsFold(material: string, openPanel: OpenPanel, opened: Program): Extension {
  const drawn = (folded: boolean, settings: Settings | undefined, state: EditorState): DecorationSet => {
    if (!settings || settings.end > state.doc.length) return Decoration.none;
    if (!folded)
      return Decoration.set(Decoration.widget({ widget: new FoldMark(), side: 1 }).range(state.doc.lineAt(0).to));
    return Decoration.set(
      Decoration.replace({ widget: new SettingsLine(settings, openPanel), block: true }).range(0, settings.end),
    );
  };
  const field = StateField.define<Fold>({
    create: () => ({
      // One that begins without a step has all its room for its settings, and they stay as they are.
      folded: opened.steps.length > 0 && !unfoldedIds().includes(material),
      settings: undefined,
      lines: Decoration.none,
    }),
    update(fold, { changes, docChanged, effects, state }) {
      let { folded, settings } = fold;
      if (docChanged && settings) settings = { ...settings, end: changes.mapPos(settings.end, -1) };
      for (const effect of effects) {
        if (effect.is(setFolded)) ({ value: folded } = effect);
        if (effect.is(setSettings)) ({ value: settings } = effect);
      }
      if (folded === fold.folded && settings === fold.settings && !docChanged) return fold;
      return { folded, settings, lines: drawn(folded, settings, state) };
    },
    provide: (of) => [
      EditorView.decorations.from(of, (fold) => fold.lines),
      EditorView.atomicRanges.of((view) => {
        const fold = view.state.field(of);
        return fold.folded ? fold.lines : Decoration.none;
      }),
    ],
  });
  /** The selection, where it holds folded settings. */
  const selectedFold = ({ state }: EditorView): boolean => {
    const { folded, settings } = state.field(field);
    const { main } = state.selection;
    return folded && settings !== undefined && !main.empty && main.from < settings.end;
  };
  return [
    field,
    // What browsers put in place of a selection leaves the folded line, which is no text to them.
    EditorView.domEventHandlers({
      beforeinput(event, view) {
        if (event.inputType !== 'insertText' || event.data === null || event.isComposing || !selectedFold(view))
          return false;
        event.preventDefault();
        view.dispatch(view.state.replaceSelection(event.data), { userEvent: 'input.type', scrollIntoView: true });
        return true;
      },
      compositionstart(_, view) {
        if (selectedFold(view)) view.dispatch({ effects: setFolded.of(false) });
      },
    }),
    keymap.of([
      {
        key: 'Mod-.',
        preventDefault: true,
        run: (view) => {
          const { folded, settings } = view.state.field(field);
          if (!settings) return false;
          view.dispatch({
            effects: setFolded.of(!folded),
            // A cursor in what is folded would unfold it again.
            ...(folded || view.state.selection.main.head > settings.end ? {} : { selection: { anchor: 0 } }),
          });
          return true;
        },
      },
    ]),
    EditorView.updateListener.of(({ state, startState, view, transactions, selectionSet }) => {
      const [fold, before] = [state.field(field), startState.field(field)];
      if (fold.folded !== before.folded) keepFolded(material, fold.folded);
      if (!fold.folded || !fold.settings) return;
      const { end } = fold.settings;
      const { main } = state.selection;
      const by = (event: string): boolean => transactions.some((t) => t.isUserEvent(event));
      // All that is selected at once is no reason to unfold.
      const all = main.from === 0 && main.to === state.doc.length;
      if (main.head <= end && !all && (by('input') || by('delete') || (selectionSet && by('select'))))
        queueMicrotask(() => {
          view.dispatch({ effects: setFolded.of(false), scrollIntoView: true });
        });
    }),
  ];
}

/** What stands in the folded line; settings that hold an error unfold. */
export function showSettings({ program, diagnostics }: Derived, sources: SourcesStore): TransactionSpec {
  const settings = settingsOf(program, sources.getState().sources);
  const broken = settings && diagnostics.some((d) => d.severity === 'error' && d.from < settings.end);
  return { effects: [setSettings.of(settings), ...(broken ? [setFolded.of(false)] : [])] };
}
