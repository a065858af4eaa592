import type { ReactElement } from 'react';

const glyph = (path: string): (() => ReactElement) =>
  function Glyph() {
    return (
      <svg width="16" height="16" viewBox="0 0 16 16" fill="currentColor" aria-hidden="true">
        <path d={path} />
      </svg>
    );
  };

export const PlayIcon = glyph('M4 2.5v11l9-5.5z');
export const PauseIcon = glyph('M4 3h3v10H4zM9 3h3v10H9z');
export const StepBackIcon = glyph('M11 3v10L4.5 8zM3 3h1.5v10H3z');
export const StepForwardIcon = glyph('M5 3v10l6.5-5zM11.5 3H13v10h-1.5z');
export const ToStartIcon = glyph('M12.5 3v10L7 8zM7.5 3v10L2 8zM1 3h1v10H1z');
export const CloseIcon = glyph(
  'M3.4 4.5 4.5 3.4 8 6.9l3.5-3.5 1.1 1.1L9.1 8l3.5 3.5-1.1 1.1L8 9.1l-3.5 3.5-1.1-1.1L6.9 8z',
);
export const MoreIcon = glyph(
  'M3 6.7a1.3 1.3 0 1 1 0 2.6 1.3 1.3 0 0 1 0-2.6zm5 0a1.3 1.3 0 1 1 0 2.6 1.3 1.3 0 0 1 0-2.6zm5 0a1.3 1.3 0 1 1 0 2.6 1.3 1.3 0 0 1 0-2.6z',
);
export const UndoIcon = glyph('M6.5 3v2.5h3a4 4 0 0 1 0 8H5V12h4.5a2.5 2.5 0 0 0 0-5h-3v2.5L2.5 6.25z');
export const RedoIcon = glyph('M9.5 3v2.5h-3a4 4 0 0 0 0 8H11V12H6.5a2.5 2.5 0 0 1 0-5h3v2.5l4-3.25z');
export const UpIcon = glyph('M8 4.5 3 9.5l1.1 1.1L8 6.7l3.9 3.9L13 9.5z');
export const WarningIcon = glyph('M8 2 15 14H1zM7.2 6v4.2h1.6V6zM7.2 11.3v1.5h1.6v-1.5z');
export const DownIcon = glyph('M8 11.5 3 6.5l1.1-1.1L8 9.3l3.9-3.9L13 6.5z');
