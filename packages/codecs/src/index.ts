export { Decoder, type DecodedImage, type LoadModule } from './decode.ts';
export { decodeGif, sheetColumns } from './gif.ts';
export { IMAGE_TYPES, readHeader, TYPE_NAMES, type ImageHeader, type ImageType } from './header.ts';
export { BYTE_LIMIT, ImageRefused, PIXEL_LIMIT, tooManyBytes } from './limits.ts';
export { encodePixels } from './png.ts';
