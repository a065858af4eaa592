// npm start: installs what is missing, builds what is stale, then becomes the server, which migrates, seeds and serves.
import { becomes } from './becomes.mjs';

await becomes('main', ['player', 'web', 'server', 'cli']);
