import { StateEffect, StateField, type StateEffectType } from '@codemirror/state';
import { Decoration, EditorView, type DecorationSet } from '@codemirror/view';

/** Decorations that are set as a whole and move with the text until they are set again. */
export function decorationsField(): {
  readonly field: StateField<DecorationSet>;
  readonly set: StateEffectType<DecorationSet>;
} {
  const set = StateEffect.define<DecorationSet>();
  const field = StateField.define<DecorationSet>({
    create: () => Decoration.none,
    update(decorations, transaction) {
      let next = decorations.map(transaction.changes);
      for (const effect of transaction.effects) if (effect.is(set)) next = effect.value;
      return next;
    },
    provide: (of) => EditorView.decorations.from(of),
  });
  return { field, set };
}
