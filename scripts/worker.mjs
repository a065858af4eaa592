// npm run worker: installs what is missing, builds what is stale, then becomes a worker that bakes for a server.
import { becomes } from './becomes.mjs';

await becomes('worker', ['server']);
