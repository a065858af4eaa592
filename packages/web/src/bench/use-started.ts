import { useEffect, useState } from 'react';
import { useStore } from 'zustand';
import { useSession } from './session.ts';

/** Milliseconds after which the rest of the Bench comes even without a picture: a driver may take long. */
const PATIENCE = 2500;

/**
 * Whether the Stage has its first picture, or has none to draw: the code of editor and deck is fetched only then, so
 * that it does not stand in the picture's way.
 */
export function useStarted(): boolean {
  const { stage, document } = useSession();
  const pictured = useStore(stage, (s) => s.pictured);
  const none = useStore(document, (s) => !s.derived.ok || s.look.glsl.outputs.length === 0);
  const [late, setLate] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => {
      setLate(true);
    }, PATIENCE);
    return () => {
      clearTimeout(timer);
    };
  }, []);
  return pictured || none || late;
}
