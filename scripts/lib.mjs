// What start, test and reset share, by what it is about.
export { ROOT } from './fresh.mjs';
export * from './lib/application.mjs';
export * from './lib/backup.mjs';
export * from './lib/database.mjs';
export * from './lib/ending.mjs';
export * from './lib/ground.mjs';
export * from './lib/packages.mjs';
export * from './lib/ports.mjs';
export * from './lib/running.mjs';
export * from './lib/secrets.mjs';
