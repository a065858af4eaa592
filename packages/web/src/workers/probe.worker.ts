/// <reference lib="webworker" />
import { expose } from 'comlink';
import { Prober } from './probe.ts';

const prober = new Prober();
const work = {
  values: prober.values.bind(prober),
  history: prober.history.bind(prober),
};
export type ProbeWork = typeof work;

expose(work);
