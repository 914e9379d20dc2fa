import { defineConfig } from 'drizzle-kit';

export default defineConfig({
  dialect: 'mysql',
  schema: './web/server/db/schema.ts',
  out: './web/server/db/migrations',
  breakpoints: true,
});
