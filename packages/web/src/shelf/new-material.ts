/** The text that a material begins from without a start; it gets its title afterwards. */
export const BLANK = `material "Untitled"
loop 4s at 30fps
surface unlit opaque one-sided
`;
