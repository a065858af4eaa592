import { chromiumFlags, MOTION } from '../playwright.config.ts';
import { expect, openDemo, score, test } from './support.ts';

// The software compositor draws in the page's own thread, which is what is measured here.
test.use({
  ...MOTION,
  launchOptions: {
    executablePath: '/usr/bin/chromium',
    args: chromiumFlags.filter((flag) => flag !== '--disable-gpu-compositing'),
  },
});

test('typing with pictures playing holds the page up for no task of 50 ms', async ({ page, browser }) => {
  await openDemo(page, 'mist-curtain');
  await expect(page.getByRole('button', { name: /^Show/ }).first()).toBeVisible();
  await score(page).click();
  await page.keyboard.press('Control+End');
  await page.waitForTimeout(1500);
  interface Event {
    readonly name: string;
    readonly ph: string;
    readonly pid: number;
    readonly tid: number;
    readonly tdur?: number;
    readonly args: { readonly name?: string };
  }
  // How slow the machine is at the moment, by work that has nothing to do with typing: its swings are no fault of ours.
  const work = await page.evaluate(() => {
    const once = (): number => {
      const start = performance.now();
      const words = new Map<string, number>();
      for (let i = 0; i < 60_000; i++) words.set(`w${String(i % 4001)}`, (words.get(`w${String(i % 4001)}`) ?? 0) + i);
      return performance.now() - start;
    };
    return Math.min(...Array.from({ length: 9 }, once));
  });
  const slowness = Math.max(1, work / 16);
  const words = '\n// the mist falls and falls over the pale leaves';
  /**
   * Milliseconds of the tasks of the page's thread above 50, by the time that it worked itself, so that other processes
   * do not count.
   */
  const longTasks = async (): Promise<number[]> => {
    await browser.startTracing(page, {
      categories: ['devtools.timeline', 'toplevel', 'disabled-by-default-devtools.timeline'],
    });
    await page.keyboard.type(words, { delay: 60 });
    const { traceEvents } = JSON.parse((await browser.stopTracing()).toString()) as { traceEvents: Event[] };
    const mains = traceEvents.filter((e) => e.name === 'thread_name' && e.args.name === 'CrRendererMain');
    const tasks = traceEvents.filter(
      (e) => e.name === 'RunTask' && e.ph === 'X' && mains.some((m) => m.pid === e.pid && m.tid === e.tid),
    );
    expect(tasks.length).toBeGreaterThan(words.length);
    return tasks.map((e) => (e.tdur ?? 0) / 1000).filter((ms) => ms > 50 * slowness);
  };
  // A busy machine makes a thread slow at times; what typing itself costs is there each time.
  const rounds: number[][] = [];
  do rounds.push(await longTasks());
  while (rounds.at(-1)!.length > 0 && rounds.length < 4);
  expect(rounds.at(-1)).toEqual([]);
  await page.keyboard.press('Control+z');
});
