import { hexOfColor, literalText, setDefault, type Dial, type Loop } from '@estela/core';
import { memo, type ReactElement } from 'react';
import { useSession } from '../session.ts';
import { AngleControl } from './AngleControl.tsx';
import type { SetValue } from './dial-control.ts';
import { ColorControl } from './ColorControl.tsx';
import { Row } from './Row.tsx';
import { SliderControl } from './SliderControl.tsx';
import { ValueField } from './ValueField.tsx';

/** What a dial shows; where it stands in the text moves with every key that is typed, and does not matter here. */
const looksOf = ({ name, type, value, low, high, step, help }: Dial): string => JSON.stringify([name, type, value, low, high, step, help]);

/** One dial: the control its type asks for, and its value as text. Drawn anew only when that changes. */
export const DialRow = memo(
  DialControls,
  (before, after) => looksOf(before.dial) === looksOf(after.dial) && before.loop.seconds === after.loop.seconds && before.loop.fps === after.loop.fps,
);

function DialControls({ dial, loop }: { readonly dial: Dial; readonly loop: Loop }): ReactElement {
  const { document } = useSession();
  const write = (literal: string, group?: string): void => {
    // The tree of now: many moves may come between two drawings of this row.
    document.edit(setDefault(document.getState().derived.program.tree, dial.name, literal), group);
  };
  const set: SetValue = (value, drag) => {
    if (drag && !document.getState().dragging) document.setDragging(true);
    write(literalText(dial.type, value, loop, hexOfColor), drag ? `drag ${dial.name}` : undefined);
  };
  const done = (): void => {
    if (document.getState().dragging) document.setDragging(false);
  };
  const control = { dial, loop, set, done };
  return (
    <Row name={dial.name} help={dial.help}>
      {dial.type === 'color' ? (
        <ColorControl {...control} />
      ) : dial.type === 'angle' ? (
        <AngleControl {...control} />
      ) : dial.type === 'vec2' ? (
        <>
          <SliderControl {...control} part={0} />
          <SliderControl {...control} part={1} />
        </>
      ) : (
        <SliderControl {...control} />
      )}
      <ValueField dial={dial} loop={loop} write={write} />
    </Row>
  );
}
