import { useCallback, useEffect, useState } from 'react';
import { useStore } from 'zustand';
import { useSession } from './session.ts';

/** Milliseconds after which the rest of the Bench comes even without a picture: a driver may take long. */
const PATIENCE = 2500;

/** What of the Bench may load. */
interface Started {
  /** The editor: once the Stage has its first picture, or has none to draw, so that its code does not delay the picture. */
  readonly score: boolean;
  /** Panel, deck and the rest: once the editor is there. */
  readonly rest: boolean;
  /** For the editor to call when it is there. */
  readonly scoreOpened: () => void;
}

export function useStarted(): Started {
  const { stage, document } = useSession();
  const pictured = useStore(stage, (s) => s.pictured);
  const none = useStore(document, (s) => !s.derived.ok || s.look.glsl.outputs.length === 0);
  const [late, setLate] = useState(false);
  const [opened, setOpened] = useState(false);
  const score = pictured || none || late;
  useEffect(() => {
    const timer = setTimeout(() => {
      setLate(true);
      if (score) setOpened(true);
    }, PATIENCE);
    return () => {
      clearTimeout(timer);
    };
  }, [score]);
  const scoreOpened = useCallback(() => {
    setOpened(true);
  }, []);
  return { score, rest: score && opened, scoreOpened };
}
