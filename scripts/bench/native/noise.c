/*
 * One octave of gradient noise on its way between two patterns, as packages/core/src/ops/lattice.ts defines it, W pixels at once
 * and each by itself: what native code of a width takes for the same formula.
 *
 * noise SIDE CELLS TURN FRAMES: nanoseconds of processor time a pixel, of pictures whose coordinates are turned by TURN radians.
 */
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <time.h>

typedef float vf __attribute__((vector_size(W * 4)));
typedef int32_t vi __attribute__((vector_size(W * 4)));
typedef uint32_t vu __attribute__((vector_size(W * 4)));

static inline vf all(float x) { return x - (vf){}; }
static inline vu bits(uint32_t x) { return x - (vu){}; }
static inline vf less(vf a, vf b) { return (vf)((vi)a & (a < b)) ; }
static inline vf minimum(vf a, vf b) { return (vf)(((vi)a & (a < b)) | ((vi)b & ~(a < b))); }
static inline vf maximum(vf a, vf b) { return (vf)(((vi)a & (a > b)) | ((vi)b & ~(a > b))); }
static inline vf fract(vf a) { return minimum(a - __builtin_elementwise_floor(a), all(0x1.fffffep-1f)); }
static inline vf mix(vf a, vf b, vf t) { return a + (b - a) * t; }
static inline vf fade(vf t) { return ((t * t) * t) * (t * (t * 6.f - 15.f) + 10.f); }
static inline vf number(vu h) { return __builtin_convertvector((vi)h, vf); }
static inline vu axis(vf index, uint32_t k) {
  vu h = (vu)(index + 12582912.f) * k;
  return h ^ (h >> 15);
}

typedef struct { uint32_t before, after; float t, weight; } Time;
typedef struct { vf along, across, height; } Slopes;

static inline vu corner(vu h) {
  h *= 0x846ca68bu;
  return h ^ (h >> 15);
}
static inline Slopes slopes(vu h, Time time) {
  vu a = corner(h ^ time.before), b = corner(h ^ time.after);
  vf w = all(time.weight);
  return (Slopes){ mix(number(a), number(b), w), mix(number(a << 10), number(b << 10), w),
                   mix(number(a << 20) * time.t, number(b << 20) * (time.t - 1.f), w) };
}
static inline vf noise(vf u, vf v, float cells, uint32_t seed, Time time) {
  vf x = fract(u) * cells, y = fract(v) * cells;
  vf i = __builtin_elementwise_floor(x), j = __builtin_elementwise_floor(y);
  x -= i;
  y -= j;
  vf i1 = less(i + 1.f, all(cells)), j1 = less(j + 1.f, all(cells));
  vu left = axis(i, 0x9e3779b1u) ^ seed, right = axis(i1, 0x9e3779b1u) ^ seed;
  vu top = axis(j, 0x85ebca77u), bottom = axis(j1, 0x85ebca77u);
  vf fx = fade(x), fy = fade(y), below = y - 1.f;
  vf lines[2];
  for (int side = 0; side < 2; side++) {
    Slopes a = slopes((side ? right : left) ^ top, time), b = slopes((side ? right : left) ^ bottom, time);
    vf height = mix(a.height + a.across * y, b.height + b.across * below, fy);
    lines[side] = height + mix(a.along, b.along, fy) * (side ? x - 1.f : x);
  }
  vf value = (mix(lines[0], lines[1], fx) * 0x1p-31f) * 1.75f;
  return minimum(maximum(value * .5f + .5f, all(0.f)), all(1.f));
}

int main(int count, char **given) {
  if (count != 5) return 2;
  int side = atoi(given[1]), frames = atoi(given[4]);
  float cells = atof(given[2]), c = cosf(atof(given[3])), s = sinf(atof(given[3]));
  float *out = aligned_alloc(64, sizeof(float) * side * side), *us = aligned_alloc(64, sizeof(float) * side);
  for (int x = 0; x < side; x++) us[x] = (x + .5f) / side;
  struct timespec start, end;
  for (int frame = -2; frame < frames; frame++) {
    if (frame == 0) clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &start);
    Time time = { 0x51ed270bu * (frame + 7), 0x51ed270bu * (frame + 8), .3f, .2f };
    for (int y = 0; y < side; y++)
      for (int x = 0; x < side; x += W) {
        vf u = *(vf *)(us + x) - .5f, v = all((y + .5f) / side - .5f);
        *(vf *)(out + y * side + x) = noise(u * c - v * s + .5f, u * s + v * c + .5f, cells, 1, time);
      }
  }
  clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &end);
  volatile float used = out[side / 2];
  (void)used;
  printf("%f\n", ((end.tv_sec - start.tv_sec) * 1e9 + (end.tv_nsec - start.tv_nsec)) / ((double)side * side * frames));
  return 0;
}
