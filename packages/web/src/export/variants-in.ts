import { check, parse } from '@estela/core';

/** The variants of a text, in its order. */
export const variantsIn = (text: string): readonly string[] => check(parse(text)).variants.map((v) => v.name);
