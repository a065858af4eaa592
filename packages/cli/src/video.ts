import { spawn } from 'node:child_process';
import { rename, rm, mkdir } from 'node:fs/promises';
import { once } from 'node:events';
import { dirname } from 'node:path';
import { delayOf, type BakePlan, type FilePiece } from '@estela/core';
import { fail } from './settings.ts';
import { say } from './wording.ts';

/** Throws with a plain sentence where there is no ffmpeg that can write VP9. */
export async function needFfmpeg(): Promise<void> {
  const probe = spawn('ffmpeg', ['-hide_banner', '-encoders'], { stdio: ['ignore', 'pipe', 'ignore'] });
  let said = '';
  probe.stdout.setEncoding('utf8').on('data', (text: string) => (said += text));
  const code = await new Promise<number | null>((done) => {
    probe.on('error', () => {
      done(null);
    });
    probe.on('close', done);
  });
  if (code === null) fail(say.noFfmpeg);
  if (!said.includes('libvpx-vp9')) fail(say.noVp9);
}

/**
 * Writes frames as one loop of WebM (VP9, BT.709) by ffmpeg, which is handed them as pictures. Frames must be evenly
 * spaced. Leaves nothing where it breaks off.
 */
export async function writeVideo(plan: BakePlan, pieces: AsyncIterable<FilePiece>, out: string): Promise<void> {
  const rate = plan.rate ?? fail(say.unevenVideo);
  if (plan.images.length > 1) fail(say.manyVideos);
  const { num, den } = delayOf(rate);
  const part = `${out}.part`;
  await mkdir(dirname(out), { recursive: true });
  const colors = [
    '-color_primaries',
    'bt709',
    '-color_trc',
    'iec61966-2-1',
    '-colorspace',
    'bt709',
    '-color_range',
    'tv',
  ];
  const ffmpeg = spawn(
    'ffmpeg',
    [
      ...['-hide_banner', '-loglevel', 'error', '-y'],
      ...['-f', 'image2pipe', '-c:v', 'png', '-framerate', `${String(den)}/${String(num)}`, '-i', '-'],
      ...['-vf', 'scale=out_color_matrix=bt709:out_range=tv:flags=accurate_rnd,format=yuv420p', ...colors],
      ...['-c:v', 'libvpx-vp9', '-crf', '10', '-b:v', '0', '-row-mt', '1', '-f', 'webm', part],
    ],
    { stdio: ['pipe', 'ignore', 'pipe'] },
  );
  let complaint = '';
  ffmpeg.stderr.setEncoding('utf8').on('data', (text: string) => (complaint += text));
  const ended = new Promise<number | null>((done) => {
    ffmpeg.on('error', () => {
      done(null);
    });
    ffmpeg.on('close', done);
  });
  // Where it ends early, writing to it fails; why is told by how it ended.
  ffmpeg.stdin.on('error', () => undefined);
  try {
    for await (const { bytes } of pieces) {
      if (ffmpeg.exitCode !== null) break;
      if (!ffmpeg.stdin.write(bytes)) await Promise.race([once(ffmpeg.stdin, 'drain').catch(() => undefined), ended]);
    }
    ffmpeg.stdin.end();
    if ((await ended) !== 0) fail(say.videoFailed(complaint.trim()));
    await rename(part, out);
  } catch (error) {
    ffmpeg.kill();
    await ended;
    await rm(part, { force: true });
    throw error;
  }
}
