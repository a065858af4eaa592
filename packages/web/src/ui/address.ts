/** The same parameters with others for some of them; those without a value are left out. */
export function withParameters(
  parameters: URLSearchParams,
  values: Readonly<Record<string, string | undefined>>,
): URLSearchParams {
  const after = new URLSearchParams(parameters);
  for (const [key, value] of Object.entries(values))
    if (value === undefined) after.delete(key);
    else after.set(key, value);
  return after;
}
