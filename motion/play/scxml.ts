import type { Condition, PlayGraph, PlayInput } from './graph';

const escapes: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const escaped = (s: string): string => s.replace(/[&<>"]/g, (c) => escapes[c]!);

/** Names as XML ids and as variables: letters, digits and underscores, none twice. */
function namesOf(things: readonly { id: string; name: string }[], first: string): Map<string, string> {
  const out = new Map<string, string>();
  const taken = new Set<string>();
  for (const { id, name } of things) {
    const plain = name
      .normalize('NFKD')
      .replace(/[^A-Za-z0-9]+/g, '_')
      .replace(/^_+|_+$/g, '');
    const base = /^[A-Za-z]/.test(plain) ? plain : `${first}_${plain}`;
    let own = base;
    for (let n = 2; taken.has(own); n++) own = `${base}_${n}`;
    taken.add(own);
    out.set(id, own);
  }
  return out;
}

/**
 * A play-through as SCXML (W3C, State Chart XML 1.0), data model ecmascript: a state each, with the clip it plays and its
 * speed as data; ways as transitions in the order in which they are asked. Presses are events, what is held and numbers are
 * data that whoever runs it keeps; clip.ended and state.time tell the end of a clip and the seconds in a state. How a way
 * joins stands in attributes of a namespace of its own, which other readers pass over.
 * @param clipOf name of an item's clip
 */
export function writeScxml(graph: PlayGraph, name: string, clipOf: (itemId: string) => string): string {
  const states = namesOf(graph.states, 'state');
  const inputs = namesOf(graph.inputs, 'input');
  const lines = [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<scxml xmlns="http://www.w3.org/2005/07/scxml" xmlns:play="urn:velvet-reel:play" version="1.0" datamodel="ecmascript" name="${escaped(name)}" initial="${states.get(graph.start) ?? ''}">`,
    '  <datamodel>',
  ];
  const start = (i: PlayInput): string => (i.kind === 'number' ? String(i.min) : 'false');
  for (const i of graph.inputs)
    if (i.kind !== 'press') lines.push(`    <data id="${inputs.get(i.id)}" expr="${start(i)}"/>`);
  lines.push('  </datamodel>');
  for (const s of graph.states) {
    lines.push(`  <state id="${states.get(s.id)}" play:speed="${s.speed}" play:repeats="${s.repeats}">`);
    lines.push('    <onentry>');
    if (s.content.kind === 'item')
      lines.push(`      <log label="play" expr="'${escaped(quoted(clipOf(s.content.itemId)))}'"/>`);
    else
      for (const { value, itemId } of s.content.items)
        lines.push(
          `      <log label="mix ${inputs.get(s.content.input) ?? ''} at ${value}" expr="'${escaped(quoted(clipOf(itemId)))}'"/>`,
        );
    lines.push('    </onentry>');
    for (const w of graph.ways) {
      if (w.from === null ? w.to === s.id : w.from !== s.id) continue;
      const target = states.get(w.to);
      if (target === undefined || w.when.length === 0) continue;
      const events = w.when.flatMap((c) =>
        c.kind === 'pressed' ? [`press.${inputs.get(c.input) ?? ''}`] : c.kind === 'ended' ? ['clip.ended'] : [],
      );
      const conditions = w.when.flatMap((c) => conditionOf(c, inputs));
      lines.push(
        `    <transition${events.length > 0 ? ` event="${events[0]}"` : ''}${
          conditions.length > 0 ? ` cond="${escaped(conditions.join(' && '))}"` : ''
        } target="${target}" play:join="${w.join.kind}" play:frames="${w.join.frames}" play:meet="${w.join.meet}" play:entry="${w.entry}"/>`,
      );
    }
    lines.push('  </state>');
  }
  lines.push('</scxml>', '');
  return lines.join('\n');
}

const quoted = (s: string): string => s.replace(/\\/g, '\\\\').replace(/'/g, "\\'");

function conditionOf(c: Condition, inputs: ReadonlyMap<string, string>): string[] {
  switch (c.kind) {
    case 'held':
      return [`${c.held ? '' : '!'}${inputs.get(c.input) ?? 'false'}`];
    case 'above':
      return [`${inputs.get(c.input) ?? '0'} > ${c.value}`];
    case 'below':
      return [`${inputs.get(c.input) ?? '0'} < ${c.value}`];
    case 'after':
      return [`_event.data.seconds >= ${c.seconds}`];
    default:
      return [];
  }
}
