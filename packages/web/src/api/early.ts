/** Answers asked for before anything is there to read them, by path. */
const asked = new Map<string, Promise<Response>>();

/** Milliseconds after which an answer that nobody has taken is old. */
const FRESH = 10_000;

/** Asks for something that a view is about to ask for; gives what came as JSON, undefined where nothing did. */
export async function fetchEarly(path: string): Promise<unknown> {
  const answer = fetch(`/api/${path}`);
  asked.set(path, answer);
  setTimeout(() => asked.delete(path), FRESH);
  try {
    const response = await answer;
    return response.ok ? ((await response.clone().json()) as unknown) : undefined;
  } catch {
    return undefined;
  }
}

/** The answer that was asked for early, once. */
export function takeEarly(path: string): Promise<Response> | undefined {
  const answer = asked.get(path);
  asked.delete(path);
  return answer;
}
