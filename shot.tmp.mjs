import { chromium } from '@playwright/test';
const [,, path, out, ...rest] = process.argv;
const opt = Object.fromEntries(rest.map(r => r.split('=')));
const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox','--disable-gpu','--disable-quic','--no-first-run','--disable-background-networking','--disable-component-update','--disable-sync','--use-gl=angle','--use-angle=swiftshader','--enable-unsafe-swiftshader'] });
const p = await b.newPage({ viewport: { width: Number(opt.w ?? 1280), height: Number(opt.h ?? 800) } });
p.on('pageerror', e => console.log('ERR', e.message)); p.on('console', m => m.type()==='error' && console.log('console', m.text().slice(0,200)));
await p.goto(`http://127.0.0.1:3000${path}`);
await p.waitForTimeout(Number(opt.wait ?? 3000));
if (opt.keys) for (const k of opt.keys.split('+')) { await p.keyboard.press(k); await p.waitForTimeout(600); }
if (opt.click) { for (const c of opt.click.split('|')) { await p.getByText(c, {exact:false}).first().click(); await p.waitForTimeout(800);} }
if (opt.js) console.log(await p.evaluate(opt.js));
await p.waitForTimeout(Number(opt.after ?? 800));
await p.screenshot({ path: out });
await b.close();
