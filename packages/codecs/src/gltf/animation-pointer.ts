import {
  Extension,
  WebIO,
  type Animation,
  type AnimationChannel,
  type Document,
  type GLTF,
  type JSONDocument,
  type Material,
  type WriterContext,
} from '@gltf-transform/core';

/** A property of a material, by the way to it from the material. */
export interface MaterialProperty {
  readonly material: Material;
  /** Names from the material down. */
  readonly path: readonly string[];
  /** Details at the first key, which the file says as well. */
  readonly first: number | readonly number[];
}

/** KHR_animation_pointer: channels that change a property of a material, told by a JSON pointer (RFC 6901). */
export class AnimationPointer extends Extension {
  static override readonly EXTENSION_NAME = 'KHR_animation_pointer';
  override readonly extensionName = 'KHR_animation_pointer';
  /** Where in the file properties stand, and what they are at first. */
  readonly #said: { readonly path: readonly string[]; readonly value: number | readonly number[] }[] = [];
  readonly #targets = new Map<AnimationChannel, MaterialProperty>();

  /** Makes a channel of an animation change a property. */
  aim(channel: AnimationChannel, property: MaterialProperty): void {
    // The library knows the paths of nodes alone.
    channel.setTargetPath('pointer' as GLTF.AnimationChannelTargetPath);
    this.#targets.set(channel, property);
  }

  override read(): this {
    return this;
  }

  override write({ jsonDoc: { json }, materialIndexMap }: WriterContext): this {
    const animations = this.document.getRoot().listAnimations();
    animations.forEach((animation: Animation, a) => {
      animation.listChannels().forEach((channel, c) => {
        const property = this.#targets.get(channel);
        if (!property) return;
        const index = materialIndexMap.get(property.material)!;
        const path = ['materials', String(index), ...property.path];
        const { target } = json.animations![a]!.channels[c]!;
        target.extensions = { KHR_animation_pointer: { pointer: `/${path.join('/')}` } };
        this.#said.push({ path, value: property.first });
      });
    });
    return this;
  }

  /** Writes what is pointed at into a file that is whole otherwise: the library leaves out what is usual. */
  complete(json: object): void {
    for (const { path, value } of this.#said) said(json, path, value);
  }
}

/** Writes files in which animations point at properties. */
export class PointerIO extends WebIO {
  override async writeJSON(document: Document, options?: Parameters<WebIO['writeJSON']>[1]): Promise<JSONDocument> {
    const made = await super.writeJSON(document, options);
    for (const extension of document.getRoot().listExtensionsUsed())
      if (extension instanceof AnimationPointer) extension.complete(made.json);
    return made;
  }
}

/** Writes a property into the file where it is left out because it is the usual. */
function said(json: object, path: readonly string[], value: number | readonly number[]): void {
  // Lists are objects with numbers for names.
  let part = json as Record<string, unknown>;
  for (const name of path.slice(0, -1)) part = (part[name] ??= {}) as Record<string, unknown>;
  part[path.at(-1)!] ??= value;
}
