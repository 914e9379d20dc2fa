import { chromium } from '@playwright/test';

const [, , url, out, wait = '2500', ...acts] = process.argv;
const b = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
});
const p = await b.newPage({ viewport: { width: 1280, height: 800 } });
p.on('console', (m) => {
  if (m.type() === 'error' || m.type() === 'warning') console.log('console', m.text().slice(0, 300));
});
p.on('pageerror', (e) => console.log('pageerror', e.message.slice(0, 400)));
await p.goto(url);
await p.waitForTimeout(Number(wait));
for (const a of acts) {
  await eval(`(async()=>{${a}})()`);
}
await p.screenshot({ path: out });
await b.close();
