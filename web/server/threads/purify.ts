import { type CutoutArt, KEPT_ATTRIBUTES, KEPT_ELEMENTS } from '@velvet-reel/motion';
import createPurify, { type DOMPurify } from 'dompurify';
import { JSDOM } from 'jsdom';

// Markup of strangers' drawings goes through here before it is kept. The core's reader has already left out what could run or
// load; this is a second pair of eyes, and one that many others look after.

let kept: DOMPurify | undefined;

function purifier(): DOMPurify {
  if (kept) return kept;
  const { window } = new JSDOM('');
  const purify = createPurify(window);
  // a copy of something in the same file is harmless, and drawings are full of them
  purify.addHook('uponSanitizeAttribute', (node, data) => {
    if (!/^(xlink:)?href$/.test(data.attrName)) return;
    const own = data.attrValue.startsWith('#');
    const picture =
      node.nodeName.toLowerCase() === 'image' && /^data:image\/(png|jpeg|gif|webp);base64,/i.test(data.attrValue);
    if (own || picture) data.forceKeepAttr = true;
    else data.keepAttr = false;
  });
  kept = purify;
  return purify;
}

const HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">';

/** A piece of a drawing without anything that could run. */
export function purified(markup: string): string {
  if (markup === '') return '';
  const clean = purifier().sanitize(`${HEAD}${markup}</svg>`, {
    USE_PROFILES: { svg: true, svgFilters: true },
    // read as XML, names keep their capitals, which the package's own lists do not have
    ADD_TAGS: [...KEPT_ELEMENTS],
    ADD_ATTR: [...KEPT_ATTRIBUTES],
    PARSER_MEDIA_TYPE: 'application/xhtml+xml',
    NAMESPACE: 'http://www.w3.org/2000/svg',
  });
  return clean
    .replace(/^<svg[^>]*>/, '')
    .replace(/<\/svg>$/, '')
    .replace(/^<svg[^>]*\/>$/, '');
}

/** The pictures of a cut-out, every piece of markup cleaned. */
export const purifiedArt = (art: CutoutArt): CutoutArt => ({
  ...art,
  defs: purified(art.defs),
  drawings: art.drawings.map((d) => ({ ...d, svg: purified(d.svg) })),
});
