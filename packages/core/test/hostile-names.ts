import fc from 'fast-check';
import { compile } from '../src/index.ts';
import { sampled } from './judging.ts';

/** Each word that a language keeps, and what emitted code calls its own. */
const HOSTILE =
  'float float4 vec2 half fixed point linear sample pass matrix lerp frac fract mix texture main discard register fn ptr array vs fs gl_x dials frame seconds result values given loop index safe_div floor_mod material Frame int32_t fabs isfinite memcpy const class await default function constructor t1 t2 color unused time'.split(
    ' ',
  );
/** Materials whose title, dials, images, ramps and steps are called so. */
export const hostile = fc
  .sample(
    fc
      .uniqueArray(fc.constantFrom(...HOSTILE), { minLength: 7, maxLength: 7 })
      .map(([a, b, c, d, e, f, g]) =>
        [
          `material "${a!} ${b!}"`,
          'loop 4s at 30fps',
          `dial ${a!}: laps = 1 in -4..4`,
          `dial ${b!}: color = #3366cc`,
          `image ${c!} = "x.png"`,
          `ramp ${g!} = 0% #000000, 100% #ffffff`,
          `${d!} = wave(${a!}) * 3 + 1`,
          `${e!} = (uv |> pan(${a!}, heading: 30deg) |> polar() |> sample(${c!})).r / ${d!}`,
          `${f!} = mod(log(${e!} + ${d!}), 0.3) |> power(${d!})`,
          `out color = (${f!} |> ramp(${g!})).rgb * ${b!}.rgb + (uv |> fbm(cells: 4))`,
        ].join('\n'),
      ),
    sampled(40, 11),
  )
  .filter((text) => compile(text).ok);
