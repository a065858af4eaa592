import { colorOfHex, hexOfColor } from '@estela/core';

/** An element with attributes and what is in it. */
export function element<Name extends keyof HTMLElementTagNameMap>(
  name: Name,
  attributes: Readonly<Record<string, string>>,
  ...children: readonly (Node | string)[]
): HTMLElementTagNameMap[Name] {
  const made = document.createElement(name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  made.append(...children);
  return made;
}

/** A value that is slid or typed. */
export interface Range {
  readonly element: HTMLElement;
  readonly set: (value: number) => void;
  readonly label: (words: string) => void;
}

/** `step` 0 is as fine as can be; what is typed stays within the bounds. */
export function range(low: number, high: number, step: number, change: (value: number) => void): Range {
  const bounds = { min: String(low), max: String(high), step: step > 0 ? String(step) : 'any' };
  const slide = element('input', { type: 'range', ...bounds });
  const type = element('input', { type: 'number', ...bounds });
  const set = (value: number): void => {
    slide.value = String(value);
    if (document.activeElement !== type) type.value = String(Math.round(value * 1e4) / 1e4);
  };
  slide.oninput = () => {
    change(Number(slide.value));
    set(Number(slide.value));
  };
  type.onchange = () => {
    const value = Math.min(high, Math.max(low, Number(type.value)));
    change(value);
    slide.value = type.value = String(value);
  };
  return {
    element: element('div', { class: 'line' }, slide, type),
    set,
    label(words) {
      for (const input of [slide, type]) input.setAttribute('aria-label', words);
    },
  };
}

/** A colour; its values are linear, and what it shows is sRGB. */
export function colorInput(
  values: readonly number[],
  label: string,
  change: (rgb: readonly number[]) => void,
): HTMLElement {
  const value = hexOfColor(values.slice(0, 3));
  const input = element('input', { type: 'color', value, 'aria-label': label });
  input.oninput = () => {
    change(colorOfHex(input.value).slice(0, 3));
  };
  return input;
}

/** A control under its name, with its unit, and what it does below. */
export function row(name: string, unit: string, help: string, ...controls: readonly HTMLElement[]): HTMLElement {
  for (const control of controls)
    for (const input of [control, ...control.querySelectorAll('input')])
      if (input.matches('input, select') && !input.hasAttribute('aria-label')) input.setAttribute('aria-label', name);
  return element(
    'div',
    { class: 'row' },
    element('label', {}, name, element('small', {}, unit)),
    ...controls,
    ...(help === '' ? [] : [element('small', {}, help)]),
  );
}
