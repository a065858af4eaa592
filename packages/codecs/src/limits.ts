/** Most pixels of an image that is taken in. */
export const PIXEL_LIMIT = 64_000_000;
/** Largest file that is taken in, in bytes. */
export const BYTE_LIMIT = 64 * 1024 * 1024;

/** Why an image is not taken; the sentence goes on after its name. */
export class ImageRefused extends Error {
  constructor(
    readonly code: 'wrong-type' | 'broken' | 'too-many-pixels' | 'too-many-bytes',
    message: string,
  ) {
    super(message);
  }
}

/** Rounded up, so that what is over a limit does not look like it. */
export const megabytes = (bytes: number): string => String(Math.ceil((bytes / 1024 / 1024) * 10) / 10);

export const wrongType = (): ImageRefused =>
  new ImageRefused('wrong-type', 'is not an image Estela can read: use PNG, JPEG, WebP, TGA or GIF.');
export const broken = (type: string, why: string): ImageRefused =>
  new ImageRefused('broken', `is a broken ${type} file: ${why}.`);
export const tooManyPixels = (width: number, height: number): ImageRefused =>
  new ImageRefused(
    'too-many-pixels',
    `is ${width} x ${height} pixels, ${Math.ceil((width * height) / 1e6)} million; the limit is ${PIXEL_LIMIT / 1e6} million.`,
  );
export const tooManyBytes = (bytes?: number): ImageRefused =>
  new ImageRefused(
    'too-many-bytes',
    `is ${bytes === undefined ? 'too large' : `${megabytes(bytes)} MB`}; the limit is ${megabytes(BYTE_LIMIT)} MB.`,
  );
