import { recall, remember } from '../ui/memory.ts';

const KEY = 'estela.visited';

/** Whether the Bench was not visited in this browser before. */
export const isFirstVisit = (): boolean => recall<{ bench: boolean }>(KEY).bench !== true;

export function rememberVisit(): void {
  remember(KEY, { bench: true });
}
