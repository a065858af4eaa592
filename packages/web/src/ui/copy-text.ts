/** Copies text; false where the browser does not let this page. */
export async function copyText(text: string): Promise<boolean> {
  try {
    await navigator.clipboard.writeText(text);
    return true;
  } catch {
    return copySelected(text);
  }
}

/** By way of a field that is selected for a moment: without https there is nothing else. */
function copySelected(text: string): boolean {
  const before = document.activeElement;
  const field = document.createElement('textarea');
  field.value = text;
  field.style.cssText = 'position: fixed; opacity: 0';
  document.body.append(field);
  field.select();
  try {
    // oxlint-disable-next-line typescript/no-deprecated
    return document.execCommand('copy');
  } catch {
    return false;
  } finally {
    field.remove();
    if (before instanceof HTMLElement) before.focus();
  }
}
