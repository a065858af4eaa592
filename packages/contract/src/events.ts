/** A project, or something in it, that has changed, as it is told to all who look at it. */
export interface ProjectEvent {
  readonly kind: 'project' | 'material' | 'source' | 'mesh' | 'set' | 'bake';
  readonly projectId: string;
  /** Which one. */
  readonly id: string;
  /** Its version by now, or a material's revision; the last of what was deleted. */
  readonly version: number;
  readonly change: 'made' | 'changed' | 'deleted';
}
