declare module 'gltf-validator' {
  /** Severity 0 is an error, 1 a warning. */
  export function validateBytes(bytes: Uint8Array): Promise<{
    readonly issues: { readonly messages: readonly { readonly severity: number; readonly code: string }[] };
  }>;
}
