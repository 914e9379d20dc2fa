import { chromium } from '@playwright/test';

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
await p.addInitScript(() => {
  const o = HTMLCanvasElement.prototype.getContext;
  HTMLCanvasElement.prototype.getContext = function (t, a) {
    if (/webgl/.test(t)) {
      if (window.__noaa) a = { ...a, antialias: false };
      const g = o.call(this, t, a);
      window.__gl = g;
      return g;
    }
    return o.call(this, t, a);
  };
});
const mode = process.argv[2];
if (mode === 'noaa')
  await p.addInitScript(() => {
    window.__noaa = true;
  });
await p.goto('http://127.0.0.1:3000/library');
await p.waitForTimeout(4000);
await p.keyboard.press('Space');
await p.waitForTimeout(800);
const r = await p.evaluate(
  (mode) =>
    new Promise((res) => {
      const g = window.__gl;
      let tris = 0,
        calls = 0;
      const od = g.drawElements.bind(g);
      g.drawElements = (m, c, t, o) => {
        tris += c / 3;
        calls++;
        if (mode === 'nodraw') return;
        od(m, c, t, o);
      };
      const range = document.querySelector('input[type=range]');
      const max = +range.max;
      let n = 0;
      const s = performance.now();
      const costs = [];
      const f = () => {
        const t = performance.now() - s;
        if (t > 3000) return res({ fps: (1000 * n) / t, tris: tris / n, calls: calls / n });
        n++;
        range.value = String((n * 7) % max);
        range.dispatchEvent(new Event('input', { bubbles: true }));
        requestAnimationFrame(f);
      };
      requestAnimationFrame(f);
    }),
  mode,
);
console.log(mode, r);
await b.close();
