import { expect, type Page, test } from '@playwright/test';

/** Who works in the library of the tests; the first makes the first account and lets the others in. */
export const PEOPLE = {
  ilse: { name: 'Ilse', email: 'ilse@ferry.example', password: 'the tide is high', role: 'admin' },
  bram: { name: 'Bram', email: 'bram@ferry.example', password: 'the tide is low!', role: 'librarian' },
  noor: { name: 'Noor', email: 'noor@ferry.example', password: 'the tide turns..', role: 'animator' },
  teo: { name: 'Teo', email: 'teo@ferry.example', password: 'the tide is slack', role: 'viewer' },
} as const;
export type Who = keyof typeof PEOPLE;

type Cookies = Awaited<ReturnType<ReturnType<Page['context']>['cookies']>>;
/** By who came in already, for this file's library: what a browser remembers of it. */
const remembered = new Map<Who, Cookies>();

/** Comes in through the sign-in page, as anybody does, or is still signed in; an account that is missing is made by the admin first. */
export async function enter(page: Page, who: Who = 'ilse'): Promise<void> {
  await page.context().addCookies(remembered.get(who) ?? []);
  await page.goto('/library');
  await signIn(page, who);
  remembered.set(who, await page.context().cookies());
}

async function signIn(page: Page, who: Who): Promise<void> {
  const { name, email, password, role } = PEOPLE[who];
  const heading = page.getByRole('heading', { name: /The first account|Sign in/ });
  await expect(heading.or(page.getByRole('navigation', { name: 'Places' })).first()).toBeVisible();
  if (!(await heading.isVisible())) return;
  const first = (await heading.textContent()) === 'The first account';
  if (first) {
    if (who !== 'ilse') throw new Error('Ilse comes first.');
    await page.getByLabel('Name').fill(name);
    const codes = (process.env.VELVET_SETUP_CODE ?? '').split(' ');
    await page.getByLabel(/Set-up code/).fill(codes[test.info().parallelIndex] ?? '');
  }
  await page.getByLabel('E-mail address').fill(email);
  await page.getByLabel(/Password/).fill(password);
  await page.getByRole('button', { name: first ? 'Create it and sign in' : 'Sign in', exact: true }).click();
  const inside = page.getByRole('navigation', { name: 'Places' });
  await expect(inside.or(page.locator('form [role=alert]')).first()).toBeVisible();
  if (await inside.isVisible()) return;
  if (who === 'ilse') throw new Error('Ilse cannot come in.');
  const admin = await page.context().browser()!.newPage();
  await enter(admin, 'ilse');
  await call(admin, 'POST', '/people', { name, email, password, role });
  await admin.close();
  await page.goto('/library');
  await signIn(page, who);
}

/** Asks the server from a signed-in page. */
export function call<T = unknown>(
  page: Page,
  method: string,
  path: string,
  body?: unknown,
): Promise<{ status: number; body: T }> {
  return page.evaluate(
    async ([m, p, b]) => {
      const answer = await fetch(`/api/v1${p}`, {
        method: m as string,
        ...(b !== undefined && { headers: { 'content-type': 'application/json' }, body: JSON.stringify(b) }),
      });
      return { status: answer.status, body: await answer.json() };
    },
    [method, path, body] as const,
  ) as Promise<{ status: number; body: T }>;
}
