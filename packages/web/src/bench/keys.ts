import { SPEEDS } from '../material/clock-store.ts';
import { undoKeys, type KeyGroup } from '../ui/keys.ts';
import { TABS, type Session } from './session.ts';
import { nextStep } from '../material/step-ref.ts';
import { aloneIn } from './selection.ts';
import { pickFiles } from './textures/place-texture.ts';

/** Keys and what the hand does on the Bench. */
export function benchKeys({ clock, document, selection, cover, panel, intake }: Session): readonly KeyGroup[] {
  /** Not while something covers the Bench. */
  const bare = (act: () => unknown) => (): unknown => (cover.getState().open === undefined ? act() : false);
  const through = (by: 1 | -1) =>
    bare(() => {
      const { program } = document.getState().derived;
      const alone = aloneIn(program, selection.getState());
      if (!alone) return false;
      selection.setState({ alone: nextStep(program, alone, by) });
      return true;
    });
  return [
    {
      group: 'Time',
      keys: [
        {
          shown: 'Space',
          does: 'play or pause',
          presses: [
            {
              key: ' ',
              act: bare(() => {
                if (clock.getState().playing) clock.pause();
                else clock.play();
              }),
            },
          ],
        },
        {
          shown: ', and .',
          does: 'one frame back or on',
          presses: [
            {
              key: ',',
              act: bare(() => {
                clock.step(-1);
              }),
            },
            {
              key: '.',
              act: bare(() => {
                clock.step(1);
              }),
            },
          ],
        },
        {
          shown: 'Home',
          does: 'to the start of the loop',
          presses: [
            {
              key: 'Home',
              act: bare(() => {
                clock.seek(0);
              }),
            },
          ],
        },
        {
          shown: '[ and ]',
          does: 'play slower or faster',
          presses: [
            {
              key: '[',
              act: bare(() => {
                clock.setSpeed(SPEEDS.findLast((s) => s < clock.getState().speed) ?? SPEEDS[0]);
              }),
            },
            {
              key: ']',
              act: bare(() => {
                clock.setSpeed(SPEEDS.find((s) => s > clock.getState().speed) ?? SPEEDS.at(-1)!);
              }),
            },
          ],
        },
      ],
    },
    {
      group: 'Text',
      keys: [
        {
          shown: 'Ctrl+K',
          does: 'insert an operation or an output',
          inFields: true,
          presses: [
            {
              key: 'k',
              ctrl: true,
              act: () => {
                cover.setState({ open: 'palette' });
              },
            },
          ],
        },
        { shown: 'Ctrl+Up and Down', does: 'change the number at the cursor; with Shift ten times as much' },
        { shown: 'Drag a number', does: 'change it; with Shift ten times as fast' },
        { shown: 'Alt+wheel on a number', does: 'change it' },
        { shown: 'Alt+Enter', does: 'open the control of the value at the cursor' },
        { shown: 'Ctrl+Space', does: 'suggestions' },
        { shown: 'Ctrl+.', does: 'fold or unfold the settings, in the Score' },
        { shown: 'Ctrl+F', does: 'find' },
        { shown: 'Ctrl+] and Ctrl+[', does: 'indent lines, and back; Tab leaves the Score' },
      ],
    },
    {
      group: 'Steps',
      keys: [
        { shown: 'Click a picture', does: 'show only that step, and open the Step tab' },
        {
          shown: 'Alt+Up and Down',
          does: 'go through the steps while only one is shown; else move the line',
          presses: [
            { key: 'ArrowUp', alt: true, act: through(-1) },
            { key: 'ArrowDown', alt: true, act: through(1) },
          ],
        },
        { shown: 'Alt+click a switch', does: 'switch off this line and all after it' },
        {
          shown: 'Esc',
          does: 'back to the whole material',
          presses: [
            {
              key: 'Escape',
              act: bare(() => {
                if (!selection.getState().alone) return false;
                selection.setState({ alone: undefined });
                return true;
              }),
            },
          ],
        },
      ],
    },
    {
      group: 'Panel',
      keys: [
        {
          shown: 'Alt+1 to Alt+6',
          does: 'Dials, Step, Sources, Checks, Probe, Bake',
          inFields: true,
          presses: TABS.map((kind, i) => ({
            key: String(i + 1),
            alt: true,
            act: bare(() => {
              panel.setState({ open: { kind } });
            }),
          })),
        },
      ],
    },
    {
      group: 'Textures',
      keys: [
        {
          shown: 'Ctrl+I',
          does: 'import files and use them',
          inFields: true,
          presses: [
            {
              key: 'i',
              ctrl: true,
              act: bare(() => {
                pickFiles({ intake });
              }),
            },
          ],
        },
        { shown: 'Ctrl+V', does: 'paste an image: import it and use it' },
        { shown: 'Drop files', does: 'on a step, the Stage or the Sources: import them and use them' },
      ],
    },
    {
      group: 'Stage',
      keys: [
        { shown: 'Drag a handle', does: 'change its value; arrow keys change it in steps' },
        { shown: 'Shift+drag a handle', does: 'headings and angles in steps of 15 degrees' },
        { shown: 'Alt+drag a handle', does: 'fractional laps' },
        {
          shown: 'Drag a mesh',
          does: 'orbit; arrow keys too. Wheel, plus and minus zoom',
        },
        { shown: 'Click while probing', does: 'pin the pixel; click it again to unpin it' },
        { shown: 'Enter while probing', does: 'pin the middle pixel; on the flat view arrow keys move it' },
      ],
    },
    {
      group: 'Everything',
      keys: [
        ...undoKeys(document.undo, document.redo, 'text, dials, handles, fixes'),
        {
          shown: '?',
          does: 'this list',
          presses: [
            {
              key: '?',
              act: bare(() => {
                cover.setState({ open: 'help' });
              }),
            },
          ],
        },
      ],
    },
  ];
}
