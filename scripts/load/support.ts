import { readFileSync } from 'node:fs';

/** Megabytes of a process: the most so far. */
export const peakOf = (pid: number): number =>
  Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${String(pid)}/status`, 'utf8'))?.[1] ?? 0) / 1024;

/** Seconds that a process has used of a core so far. */
export function cpuOf(pid: number): number {
  const fields = readFileSync(`/proc/${String(pid)}/stat`, 'utf8')
    .replace(/^.*\) /, '')
    .split(' ');
  return (Number(fields[11]) + Number(fields[12])) / 100;
}

/** Posts JSON; throws where it is not taken. */
export async function made<T>(url: string, body: object): Promise<T> {
  const headers = { 'content-type': 'application/json' };
  const answer = await fetch(url, { method: 'POST', headers, body: JSON.stringify(body) });
  if (!answer.ok) throw new Error(`${url} answered ${String(answer.status)}: ${await answer.text()}`);
  return (await answer.json()) as T;
}
