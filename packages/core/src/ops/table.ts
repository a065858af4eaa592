import { colour } from './colour.ts';
import { coordinates } from './coordinates.ts';
import { layers } from './layers.ts';
import { maths } from './maths.ts';
import { motion } from './motion.ts';
import { noise } from './noise.ts';
import type { Operation } from './operation.ts';
import { patterns } from './patterns.ts';
import { sampling } from './sampling.ts';
import { shaping } from './shaping.ts';
import { specks } from './specks.ts';
import { surface } from './surface.ts';
import { time } from './time.ts';

/** Every operation of Wake, in the order of the reference page. */
export const OPERATIONS: readonly Operation[] = [
  coordinates,
  motion,
  time,
  noise,
  specks,
  sampling,
  patterns,
  shaping,
  colour,
  layers,
  surface,
  maths,
].flat();

const BY_NAME = new Map(OPERATIONS.map((o) => [o.name, o]));

export const operationNamed = (name: string): Operation | undefined => BY_NAME.get(name);
