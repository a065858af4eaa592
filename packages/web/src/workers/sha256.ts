/** SHA-256 of bytes, in hex: the name under which the server keeps them. */
export async function sha256(bytes: Uint8Array<ArrayBuffer>): Promise<string> {
  // The browser's own is there with https, or on this machine, alone.
  if (globalThis.isSecureContext) {
    const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', bytes));
    return [...digest].map((b) => b.toString(16).padStart(2, '0')).join('');
  }
  const [{ sha256: digestOf }, { bytesToHex }] = await Promise.all([
    import('@noble/hashes/sha2'),
    import('@noble/hashes/utils'),
  ]);
  return bytesToHex(digestOf(bytes));
}
