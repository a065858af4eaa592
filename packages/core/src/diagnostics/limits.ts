/** Greatest 32-bit float (IEEE 754): literals and constants beyond it are errors. */
export const GREATEST = 3.4028234663852886e38;
