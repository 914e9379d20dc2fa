// Builds everything that runs, for an image or a package of one's own: npm start does so by itself.
import { ensureBuild, ROOT } from './lib.mjs';

ensureBuild({ ...process.env, VELVET_ROOT: ROOT, NEXT_TELEMETRY_DISABLED: '1' });
