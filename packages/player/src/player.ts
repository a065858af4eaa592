import type { DialValues, PlayerData, PlayerDial, PlayerModule } from '@estela/core';
import { Drawing } from './drawing.ts';
import { colorInput, element, range, row } from './controls.ts';

declare global {
  interface Window {
    /** What the page plays, and the functions of its frames, a module a shader. */
    readonly estelaPackage?: PlayerData;
    readonly estelaModules?: readonly PlayerModule[];
  }
}

const { estelaPackage: data, estelaModules: modules = [] } = window;
const canvas = document.querySelector('canvas')!;
const aside = document.querySelector('aside')!;

function complain(error: unknown): void {
  const words = element('p', { role: 'alert' }, error instanceof Error ? error.message : String(error));
  document.querySelector('#stage')!.replaceChildren(words);
}

/** `?time=SECONDS&size=PIXELS` asks for one frame, still, without controls; `&variant=NAME&output=NAME` of what. */
function asked(query: URLSearchParams): { readonly time: number; readonly size: number } | undefined {
  const [time, size] = ['time', 'size'].map((name) => query.get(name));
  if (time == null && size == null) return undefined;
  const seconds = Number(time ?? 0);
  const side = Number(size ?? 512);
  if (!Number.isFinite(seconds)) throw new Error('time is in seconds, for example ?time=0.5');
  if (!Number.isInteger(side) || side < 1 || side > 4096)
    throw new Error('size is in pixels, 1 to 4096, for example ?size=256');
  return { time: seconds, size: side };
}

async function play({ title, loop, lit, shaders, settings }: PlayerData): Promise<void> {
  document.title = title;
  const query = new URLSearchParams(location.search);
  const still = asked(query);
  const drawing = new Drawing(canvas, data!, still === undefined);
  await drawing.load();

  let setting = settings.find((s) => s.variant !== undefined && s.variant === query.get('variant')) ?? settings[0]!;
  let dials: DialValues = {};
  let [time, playing, repeat] = [0, !matchMedia('(prefers-reduced-motion: reduce)').matches, 1];
  let output = query.get('output') ?? 'color';
  const choose = (): void => {
    const module = modules[setting.shader]!;
    dials =
      (setting.variant === undefined ? undefined : module.variants[setting.variant]) ??
      Object.fromEntries(Object.entries(module.dials).map(([name, dial]) => [name, dial.default]));
  };
  choose();
  const draw = (size: number): void => {
    const shader = shaders[setting.shader]!;
    const frame = modules[setting.shader]!.frame(dials, time);
    drawing.draw(shader, frame, { size, repeat, output: Math.max(0, shader.outputs.indexOf(output)) });
  };
  if (still) {
    document.body.classList.add('still');
    canvas.style.width = `${String(still.size)}px`;
    ({ time } = still);
    draw(still.size);
    document.body.dataset.drawn = 'true';
    return;
  }

  let dirty = true;
  const changed = (): void => {
    dirty = true;
  };
  const place = range(0, loop.seconds, 1 / loop.fps / 8, (value) => {
    time = value;
    setPlaying(false);
  });
  const clock = element('output', {});
  const start = element('button', { type: 'button', title: 'Space' });
  const setPlaying = (now: boolean): void => {
    playing = now;
    start.textContent = playing ? 'Pause' : 'Play';
    changed();
  };
  start.onclick = () => {
    setPlaying(!playing);
  };
  const squares = element('button', { type: 'button', title: 'T', 'aria-pressed': 'false' }, '3 x 3');
  squares.onclick = () => {
    repeat = repeat === 1 ? 3 : 1;
    squares.setAttribute('aria-pressed', String(repeat === 3));
    changed();
  };
  const list = (
    label: string,
    names: readonly string[],
    now: string,
    act: (name: string, at: number) => void,
  ): HTMLElement => {
    const select = element('select', {});
    select.append(...names.map((name) => new Option(name, name, false, name === now)));
    select.onchange = () => {
      act(select.value, select.selectedIndex);
      changed();
    };
    return row(label, '', '', select);
  };
  const sliders = element('div', { style: 'display: grid; gap: 14px' });
  const showDials = (): void => {
    sliders.replaceChildren(
      ...Object.entries(modules[setting.shader]!.dials).map(([name, dial]) => dialRow(name, dial)),
    );
  };
  const dialRow = (name: string, dial: PlayerDial): HTMLElement => {
    const values = [dials[name] ?? 0].flat();
    const unit = ['number', 'vec2', 'color'].includes(dial.type) ? '' : dial.unit;
    const give = (next: readonly number[]): void => {
      dials = { ...dials, [name]: next.length === 1 ? next[0]! : next };
      changed();
    };
    const slide = (value: number, i: number, label: string, bounds: readonly [number, number]): HTMLElement => {
      const input = range(...bounds, dial.step ?? 0, (now) => {
        give([dials[name] ?? 0].flat().with(i, now));
      });
      input.set(value);
      input.label(label);
      return input.element;
    };
    const inputs =
      dial.type === 'color'
        ? [
            colorInput(values, name, (rgb) => {
              give([...rgb, ...[dials[name] ?? 0].flat().slice(3)]);
            }),
            slide(values[3] ?? 1, 3, `${name} opacity`, [0, 1]),
          ]
        : values.map((value, i) =>
            slide(value, i, values.length === 1 ? name : `${name} ${i === 0 ? 'x' : 'y'}`, [
              dial.min ?? Math.min(0, value),
              dial.max ?? Math.max(1, value * 2),
            ]),
          );
    return row(name, unit, dial.help, ...inputs);
  };
  const { outputs } = shaders[0]!;
  aside.replaceChildren(
    element('h1', {}, title),
    ...(lit ? [element('p', {}, 'This is a lit material: one output is shown, without lighting.')] : []),
    row('Time', 'seconds', '', place.element),
    element('div', { class: 'line' }, clock, start, squares),
    ...(settings.length > 1
      ? [
          list(
            'Variant',
            settings.map((s) => s.label),
            setting.label,
            (_, at) => {
              setting = settings[at]!;
              choose();
              showDials();
            },
          ),
        ]
      : []),
    ...(outputs.length > 1
      ? [
          list('Output', outputs, output, (name) => {
            output = name;
          }),
        ]
      : []),
    sliders,
    element('p', {}, 'Space: play or pause. Arrow keys: one frame. T: 3 x 3 tiling.'),
  );
  showDials();
  setPlaying(playing);

  const step = (frames: number): void => {
    const count = Math.round(loop.seconds * loop.fps);
    const next = Math.round(time * loop.fps) + frames;
    time = (((next % count) + count) % count) / loop.fps;
    setPlaying(false);
  };
  addEventListener('keydown', (event) => {
    const { target, key } = event;
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const busy = target instanceof HTMLInputElement || target instanceof HTMLSelectElement;
    if (key === ' ' && !(target instanceof HTMLButtonElement) && !(target instanceof HTMLSelectElement)) start.click();
    else if (key === 'ArrowLeft' && !busy) step(-1);
    else if (key === 'ArrowRight' && !busy) step(1);
    else if (key === 't' && !busy) squares.click();
    else return;
    event.preventDefault();
  });
  new ResizeObserver(changed).observe(canvas);
  let before: number | undefined;
  const tick = (now: number): void => {
    if (playing) {
      // Away from the page, time stands.
      time += Math.min(now - (before ?? now), 250) / 1000;
      time -= loop.seconds * Math.floor(time / loop.seconds);
      dirty = true;
    }
    before = now;
    if (dirty) {
      dirty = false;
      try {
        draw(Math.max(1, Math.min(1024, Math.round(canvas.clientWidth * Math.min(devicePixelRatio, 2)))));
      } catch (error) {
        complain(error);
        return;
      }
      place.set(time);
      clock.textContent = `frame ${String(Math.floor(time * loop.fps + 1e-6))} of ${String(Math.round(loop.seconds * loop.fps))}`;
    }
    requestAnimationFrame(tick);
  };
  requestAnimationFrame(tick);
}

if (data) play(data).catch(complain);
else complain('There is nothing to play.');
