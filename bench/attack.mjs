// Those who mean harm, for npm run bench:hostile: a viewer asks for exports and gives them up; an animator sends files made to
// burst, and opens imports that never come. A process of its own, since they sit at machines of their own.
// usage: attack.mjs ADDRESS UNTIL LONG CHARACTER, the last two the item and the cast member to export. Prints what came of it.
import { setPriority } from 'node:os';
import { strToU8, zipSync } from 'fflate';
import { signInAs } from './crowd.mjs';

setPriority(19);
const [address, time, item, character] = process.argv.slice(2);
const until = Number(time);
const sleep = (ms) => new Promise((r) => setTimeout(r, ms));
const [viewer, animator] = await Promise.all(['teo', 'noor'].map((who) => signInAs(address, who)));

const came = new Map();
const told = (what, answer) => came.set(`${what} ${answer}`, (came.get(`${what} ${answer}`) ?? 0) + 1);
async function givenUp() {
  while (Date.now() < until) {
    const stop = new AbortController();
    setTimeout(() => stop.abort(), 600);
    const path = `/items/${item}/export?format=csv&fps=1000&onto=${character}`;
    try {
      const answer = await viewer('GET', path, undefined, stop.signal);
      await answer.arrayBuffer();
      told('export', answer.status);
    } catch {
      told('export', 'given up');
    }
  }
}
const nodes = JSON.stringify({ asset: { version: '2.0' }, nodes: Array.from({ length: 300_000 }, () => ({})) });
const inner = zipSync({ 'a.bvh': new Uint8Array(40 * 2 ** 20) }, { level: 9 });
const BOMBS = {
  'nodes.gltf': strToU8(nodes),
  'frames.bvh': strToU8(
    'HIERARCHY\nROOT a\n{\nOFFSET 0 0 0\nCHANNELS 3 Xrotation Yrotation Zrotation\nEnd Site\n{\nOFFSET 0 1 0\n}\n}\nMOTION\nFrames: 1000000000\nFrame Time: 0.01\n0 0 0\n',
  ),
  'deep.bvh': strToU8(`HIERARCHY\n${'JOINT a\n{\nOFFSET 0 0 0\n'.repeat(60_000)}`),
  'bones.asf': strToU8(`:version 1.10\n:bonedata\n${'begin\nid 1\nname a\nlength 1\nend\n'.repeat(60_000)}`),
  // 65,535 points in as many frames, by what the head says
  'points.c3d': Uint8Array.from({ length: 1 << 20 }, (_, i) => (i === 0 ? 2 : i === 1 ? 0x50 : 0xff)),
  'markers.trc': strToU8(
    `PathFileType\t4\t(X/Y/Z)\ta.trc\nDataRate\tCameraRate\tNumFrames\tNumMarkers\tUnits\n100\t100\t100000000\t100000\tmm\nFrame#\tTime\t${'m\t\t\t'.repeat(20_000)}\n`,
  ),
  'columns.csv': strToU8(
    `${Array.from({ length: 6_000 }, (_, i) => `j${Math.floor(i / 3)}.${'xyz'[i % 3]}`).join(',')}\n${`${'0,'.repeat(5_999)}0\n`.repeat(80)}`,
  ),
  'groups.svg': strToU8(
    `<svg xmlns="http://www.w3.org/2000/svg">${'<g>'.repeat(80_000)}${'</g>'.repeat(80_000)}</svg>`,
  ),
  'layers.json': strToU8(
    JSON.stringify({ v: '5', fr: 30, ip: 0, op: 1e9, w: 1, h: 1, layers: Array(50_000).fill({ ty: 4, ks: {} }) }),
  ),
};
async function bombs() {
  const entries = Object.entries(BOMBS);
  for (let i = 0; Date.now() < until; i++) {
    const [name, bytes] = entries[i % entries.length];
    const form = new FormData();
    form.set('file', new File([bytes], name));
    try {
      const answer = await animator('POST', '/intake', form);
      told(name, (await answer.json()).state ?? answer.status);
    } catch (error) {
      told(name, error.cause?.code ?? error.message);
    }
  }
}
async function archives() {
  const nested = zipSync({ 'x/inner.zip': inner, 'b.zip': inner });
  for (let i = 0; Date.now() < until; i++) {
    const name = i % 2 === 0 ? 'nested.zip' : 'never.bvh';
    const files = [{ name, bytes: nested.length }];
    try {
      const opened = await animator('POST', '/jobs/intake', JSON.stringify({ title: name, files }));
      const { id } = await opened.json();
      if (!id) told('import', opened.status);
      else if (name === 'nested.zip') {
        const form = new FormData();
        form.set('file', new File([nested], name));
        told('archive', (await animator('PUT', `/jobs/${id}/files/0`, form)).status);
      } else told('import', 'left open');
    } catch (error) {
      told('import', error.cause?.code ?? error.message);
    }
    await sleep(50);
  }
}

await Promise.all([
  ...Array.from({ length: 8 }, () => givenUp()),
  ...Array.from({ length: 2 }, () => bombs()),
  archives(),
]);
console.log([...came].map((f) => f.join(' × ')).join(', '));
process.exit(0);
