import { useEffect } from 'react';
import { SPEEDS } from '../material/clock-store.ts';
import { useSession } from './session.ts';
import { nextSolo } from './solo.ts';

/** Whether keys pressed here are typed into something. */
const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    target.closest('input, textarea, select, [role="slider"], [role="menu"], [role="dialog"]') !== null);

/** Keys of the Bench: space plays, comma and period step a frame, Home goes to the start; undo and redo anywhere. */
export function useBenchKeys(): void {
  const { clock, document, solo, cover } = useSession();
  useEffect(() => {
    const pressed = (event: KeyboardEvent): void => {
      if (event.defaultPrevented) return;
      if (
        (event.ctrlKey || event.metaKey) &&
        !event.altKey &&
        (event.key.toLowerCase() === 'z' || event.key.toLowerCase() === 'y')
      ) {
        if (event.target instanceof HTMLInputElement && event.target.type === 'text') return;
        const redo = event.shiftKey || event.key.toLowerCase() === 'y';
        if (redo ? document.redo() : document.undo()) event.preventDefault();
        return;
      }
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        cover.setState({ open: 'palette' });
        return;
      }
      if (cover.getState().open) return;
      const { step } = solo.getState();
      if (step && event.key === 'Escape') {
        solo.setState({ step: undefined });
        return;
      }
      if (step && event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
        event.preventDefault();
        solo.setState({ step: nextSolo(document.getState().derived.program, step, event.key === 'ArrowUp' ? -1 : 1) });
        return;
      }
      if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return;
      const { playing } = clock.getState();
      const actions: Record<string, () => void> = {
        ' ': () => {
          if (playing) clock.pause();
          else clock.play();
        },
        ',': () => {
          clock.step(-1);
        },
        '.': () => {
          clock.step(1);
        },
        '?': () => {
          cover.setState({ open: 'help' });
        },
        Home: () => {
          clock.seek(0);
        },
        '[': () => {
          clock.setSpeed(SPEEDS.findLast((s) => s < clock.getState().speed) ?? SPEEDS[0]);
        },
        ']': () => {
          clock.setSpeed(SPEEDS.find((s) => s > clock.getState().speed) ?? SPEEDS.at(-1)!);
        },
      };
      const action = actions[event.key];
      // A focused button takes the space bar for itself.
      if (!action || (event.key === ' ' && event.target instanceof HTMLButtonElement)) return;
      event.preventDefault();
      action();
    };
    window.addEventListener('keydown', pressed);
    return () => {
      window.removeEventListener('keydown', pressed);
    };
  }, [clock, document, solo, cover]);
}
