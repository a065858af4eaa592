#!/usr/bin/env node
import { existsSync } from 'node:fs';

const built = new URL('../dist/main.js', import.meta.url);
if (!existsSync(built)) {
  console.error('The command line is not built yet: run `npm start` or `npm run estela -- ...` in the project once.');
  process.exit(2);
}
await import(built.href);
