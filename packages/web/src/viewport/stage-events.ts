/** What a Stage tells its owner. */
export interface StageEvents {
  /** The driver refused a shader, or accepts again. */
  readonly failed: (log: string | undefined) => void;
  readonly lost: (lost: boolean) => void;
  /**
   * A picture was drawn: at which share of full resolution, and how long a frame takes by now, in ms, where time goes
   * on.
   */
  readonly drawn: (scale: number, milliseconds: number | undefined) => void;
  /**
   * How long the graphics card takes for the material over 1920 x 1080 pixels, in ms; undefined while that is not known, null
   * where it cannot be.
   */
  readonly timed?: (milliseconds: number | undefined | null) => void;
  /** The canvas holds another picture; it can be read until the task ends. */
  readonly pictured?: () => void;
  /** Something that must not be held up is going on: draw seldom. */
  readonly busy?: () => boolean;
}
