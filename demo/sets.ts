import type { SetBody, SetItem } from '../packages/contract/src/sets.ts';

const thing = (id: string, mesh: string, material: string, more: Partial<SetItem> = {}): SetItem => ({
  id,
  mesh,
  subdivisions: null,
  material,
  variant: null,
  position: [0, 0, 0],
  turn: [0, 0, 0],
  scale: 1,
  copies: null,
  turning: 0,
  delay: 0,
  overlay: false,
  ...more,
});

/** Sets of the demo; `material` and `mesh` tell ids by titles and names. */
export const sets = (material: (title: string) => string, mesh: (name: string) => string): readonly SetBody[] => [
  {
    name: 'Bend with guide lamps',
    scene: { environment: 'dusk', backdrop: 'room', exposure: 0.3 },
    view: { from: [-0.6, 1.1, 2.9], at: [0.15, -0.15, 0.2] },
    items: [
      thing('lamps', 'cylinder', material('Guide lamps'), {
        variant: 'Post',
        position: [-1.5, -0.29, 0.9],
        scale: 0.2,
        delay: 0.15,
        copies: {
          kind: 'curve',
          count: 16,
          closed: false,
          points: [
            [0, 0],
            [6, -0.5],
            [11, -2.5],
            [14, -6],
          ],
        },
      }),
      thing('vein', mesh('sap tube'), material('Sap line'), {
        variant: 'Vein',
        position: [0.1, 0.35, -0.5],
        turn: [0, -12, 0],
      }),
    ],
  },
  {
    name: 'Two spore shells',
    scene: { environment: 'depths', backdrop: 'plain', exposure: 0 },
    view: { from: [0.6, 0.5, 2.2], at: [0, 0, 0] },
    items: [
      thing('inner', 'sphere', material('Spore shells'), { variant: 'Swift', scale: 0.62, turning: -24 }),
      thing('outer', 'sphere', material('Spore shells'), { scale: 1.05, turn: [0, 0, 18], turning: 60 }),
    ],
  },
  {
    name: 'Notice row under film',
    scene: { environment: 'studio', backdrop: 'plain', exposure: 0 },
    view: { from: [0.5, 0.25, 2.4], at: [0.1, 0.02, 0] },
    items: [
      thing('upper', 'plane', material('Notice ribbon'), {
        variant: 'Row',
        position: [-1, 0.26, 0],
        scale: 0.5,
        copies: { kind: 'row', count: 5, step: [1, 0, 0] },
      }),
      thing('lower', 'plane', material('Notice ribbon'), {
        variant: 'Row',
        position: [-1, -0.26, 0],
        scale: 0.5,
        delay: 0,
        copies: { kind: 'row', count: 5, step: [1, 0, 0] },
      }),
      thing('film', 'plane', material('Grain film'), { overlay: true }),
    ],
  },
  {
    name: 'Fall into the drain',
    scene: { environment: 'depths', backdrop: 'room', exposure: 0.6 },
    view: { from: [0.9, 0.65, 2.3], at: [0, -0.1, 0] },
    items: [
      thing('drain', 'radial', material('Whirl drain'), { position: [0, -0.38, 0.3], turn: [-90, 0, 0], scale: 0.9 }),
      thing('fall', 'fall', material('Mist curtain'), { position: [0, 0.1, -0.2] }),
      thing('air', 'plane', material('Hothouse shimmer'), { position: [0.75, 0, 0.1], scale: 0.7 }),
    ],
  },
];
