/** Steps to the right and down that an arrow key stands for; undefined for other keys. */
export function arrowStep(key: string): readonly [number, number] | undefined {
  const steps: Partial<Record<string, readonly [number, number]>> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  };
  return steps[key];
}
