/** The starts by what they are for, in the order in which they are shown; each is a file of `starts/`. */
export const startGroups: Readonly<Record<string, readonly string[]>> = {
  'Scroll, turn, swing': ['steady-rise', 'slanted-rain', 'turning-vane', 'breathing-bulb', 'drain-inflow'],
  Noise: ['ember-cloud', 'root-veins', 'torn-mist'],
  Dissolve: ['burning-leaf', 'bloom-and-wilt'],
  'Layers and light': ['window-view', 'glasshouse-pane', 'twin-shells'],
  'Marks and patterns': ['marching-signs', 'pixel-tiles', 'one-strip', 'beads-on-a-path'],
  'Grain, frames, particles': ['old-lens', 'sheet-player', 'spore-drift'],
};
