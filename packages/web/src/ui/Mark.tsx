import type { ReactElement } from 'react';
import { tokens } from './tokens.ts';

/** The mark: a wake, two strokes, amber over bone. */
export function Mark(): ReactElement {
  return (
    <svg
      width="22"
      height="22"
      viewBox="0 0 24 24"
      fill="none"
      strokeWidth="2.4"
      strokeLinecap="round"
      aria-hidden="true"
    >
      <path stroke={tokens.amber} d="M2 12c4-6 7-6 10-3s6 3 10-2" />
      <path stroke={tokens.bone} d="M2 18c4-6 7-6 10-3s6 3 10-2" />
    </svg>
  );
}
