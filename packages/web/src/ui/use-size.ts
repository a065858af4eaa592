import { useEffect, useRef, useState, type RefObject } from 'react';

/** The size of an element in CSS pixels, followed as it changes; zeros before it is known. */
export function useSize<E extends HTMLElement>(): {
  readonly area: RefObject<E | null>;
  readonly size: readonly [number, number];
} {
  const area = useRef<E>(null);
  const [size, setSize] = useState<readonly [number, number]>([0, 0]);
  useEffect(() => {
    const element = area.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => {
      setSize([element.clientWidth, element.clientHeight]);
    });
    observer.observe(element);
    return () => {
      observer.disconnect();
    };
  }, []);
  return { area, size };
}
