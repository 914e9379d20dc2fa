import { existsSync } from 'node:fs';
import { chromium } from '@playwright/test';

/** What the figures were measured in; where that is not there, what the tests install. */
const CHROMIUM = ['/usr/bin/chromium', '/usr/bin/chromium-headless-shell'].find(existsSync);

/** Headless Chromium with software WebGL, as the benchmarks of the interface use it. */
export const openBrowser = () =>
  chromium.launch({
    executablePath: process.env.VELVET_CHROMIUM ?? CHROMIUM,
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

/** Comes in as one of the demo world's people. */
export async function signIn(page, address, who = 'ilse') {
  // the first steps of the demo world would lie over what is looked at
  await page.addInitScript(() => localStorage.setItem('velvet-opening', 'seen'));
  await page.goto(`${address}/library`);
  await page.getByRole('button', { name: new RegExp(`^${who} `, 'i') }).click();
  await page.getByRole('navigation', { name: 'Places' }).waitFor();
}

/** Asks the server from a signed-in page. */
export const call = (page, method, path, body) =>
  page.evaluate(
    async ([m, p, b]) => {
      const answer = await fetch(`/api/v1${p}`, {
        method: m,
        ...(b && { headers: { 'content-type': 'application/json' }, body: JSON.stringify(b) }),
      });
      const said = await answer.json();
      if (!answer.ok) throw new Error(`${m} ${p}: ${said.message}`);
      return said;
    },
    [method, path, body],
  );

export const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
export const most = (list) => list.reduce((a, b) => Math.max(a, b), 0);
