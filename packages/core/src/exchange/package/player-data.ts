/** An image for the page that plays a package: a file that browsers read, or pixels. */
export type PlayerImage =
  | { readonly kind: 'file'; readonly url: string }
  | {
      readonly kind: 'pixels';
      readonly width: number;
      readonly height: number;
      readonly bits: 8 | 16;
      /** Rows from the top, RGBA, 16 bits little-endian; a zlib stream in base64. */
      readonly data: string;
    };

export interface PlayerSampler {
  readonly name: string;
  /** Its place among the images. */
  readonly image: number;
  readonly wrap: 'repeat' | 'mirror' | 'clamp';
  readonly filter: 'linear' | 'nearest';
  readonly color: boolean;
}

/** One shader of a package, as its page draws it. */
export interface PlayerShader {
  readonly fragment: string;
  /** Of the frame, with their types: a scalar's letter and how many of it, as `f2`. */
  readonly fields: readonly { readonly name: string; readonly type: string }[];
  readonly samplers: readonly PlayerSampler[];
  readonly outputs: readonly string[];
}

/** How a package can be set: a name and the shader it needs. Dials as the variant of that name has them. */
export interface PlayerSetting {
  readonly label: string;
  /** Undefined where the dials are as exported. */
  readonly variant?: string;
  readonly shader: number;
}

/** What the page that plays a package is given, beside the functions of the frame. */
export interface PlayerData {
  readonly title: string;
  readonly loop: { readonly seconds: number; readonly fps: number };
  readonly lit: boolean;
  readonly shaders: readonly PlayerShader[];
  readonly settings: readonly PlayerSetting[];
  readonly images: readonly PlayerImage[];
}

/** A dial as the module of a package tells of it. */
export interface PlayerDial {
  readonly type: string;
  readonly unit: string;
  readonly default: number | readonly number[];
  readonly min?: number;
  readonly max?: number;
  readonly step?: number;
  readonly help: string;
}
export type DialValues = Readonly<Record<string, number | readonly number[]>>;

/** What each shader's module gives. */
export interface PlayerModule {
  readonly dials: Readonly<Record<string, PlayerDial>>;
  readonly variants: Readonly<Record<string, DialValues>>;
  readonly frame: (dials: DialValues, seconds: number) => DialValues;
}
