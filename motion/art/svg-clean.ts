/** Elements of a drawing that are kept. Everything that could run, load or animate is missing on purpose. */
export const KEPT_ELEMENTS: ReadonlySet<string> = new Set(
  (
    'svg g a switch defs symbol use path rect circle ellipse line polyline polygon image text tspan clipPath mask pattern ' +
    'linearGradient radialGradient stop filter marker style title desc ' +
    'feBlend feColorMatrix feComponentTransfer feComposite feConvolveMatrix feDiffuseLighting feDisplacementMap ' +
    'feDistantLight feDropShadow feFlood feFuncA feFuncB feFuncG feFuncR feGaussianBlur feMerge feMergeNode feMorphology ' +
    'feOffset fePointLight feSpecularLighting feSpotLight feTile feTurbulence'
  ).split(' '),
);

/** What is not drawn anyway, so that leaving it out is no loss to be told. */
export const OWN_DRAWN_ELEMENTS: ReadonlySet<string> = new Set(['metadata', 'namedview', 'pgf', 'pgfRef', 'i']);

/** Attributes that are kept, each as far as its value refers to nothing outside the file. */
export const KEPT_ATTRIBUTES: ReadonlySet<string> = new Set(
  (
    'id class style transform d x y x1 y1 x2 y2 cx cy r rx ry fx fy fr width height points viewBox preserveAspectRatio ' +
    'fill fill-opacity fill-rule stroke stroke-width stroke-opacity stroke-linecap stroke-linejoin stroke-miterlimit ' +
    'stroke-dasharray stroke-dashoffset opacity color display visibility clip-path clip-rule mask filter paint-order ' +
    'clipPathUnits maskUnits maskContentUnits patternUnits patternContentUnits patternTransform gradientUnits ' +
    'gradientTransform spreadMethod offset stop-color stop-opacity href xlink:href mix-blend-mode isolation vector-effect ' +
    'marker-start marker-mid marker-end markerWidth markerHeight markerUnits orient refX refY overflow enable-background ' +
    'font-family font-size font-weight font-style text-anchor dominant-baseline letter-spacing dx dy rotate textLength ' +
    'lengthAdjust shape-rendering image-rendering color-interpolation color-interpolation-filters flood-color flood-opacity ' +
    'filterUnits primitiveUnits in in2 result stdDeviation mode type values tableValues slope intercept amplitude exponent ' +
    'operator k1 k2 k3 k4 order kernelMatrix divisor bias targetX targetY edgeMode surfaceScale diffuseConstant ' +
    'specularConstant specularExponent lighting-color scale xChannelSelector yChannelSelector radius baseFrequency ' +
    'numOctaves seed stitchTiles azimuth elevation z pointsAtX pointsAtY pointsAtZ limitingConeAngle ' +
    'inkscape:label inkscape:groupmode inkscape:transform-center-x inkscape:transform-center-y serif:id data-name'
  ).split(' '),
);

const PICTURE = /^data:image\/(?:png|jpeg|jpg|gif|webp);base64,[a-z\d+/=\s]*$/i;

/**
 * An attribute as it may stay, undefined where it may not.
 * @param tell is given what was left out where that can be missed
 */
export function cleanAttribute(
  tag: string,
  name: string,
  value: string,
  tell: (why: string) => void,
): string | undefined {
  if (name === 'xmlns' || name.startsWith('xmlns:') || name === 'version' || name === 'xml:space') return undefined;
  if (/^on/i.test(name)) {
    tell('what should run when it is pointed at');
    return undefined;
  }
  if (name === 'href' || name === 'xlink:href') {
    const target = value.trim();
    if (/^#[^\s<>"'()]+$/.test(target)) return target;
    if (tag === 'image' && PICTURE.test(target)) return target.replace(/\s+/g, '');
    if (tag !== 'a') tell(tag === 'image' ? 'a picture that is not in the file' : 'something outside the file');
    return undefined;
  }
  if (name.startsWith('data-velvet-')) return value.slice(0, 200);
  if (!KEPT_ATTRIBUTES.has(name)) return undefined;
  if (name === 'style') return cleanDeclarations(value, tell);
  if (isHarmless(value)) return value;
  tell('something outside the file');
  return undefined;
}

/** Whether a value refers to nothing but the file's own elements. */
const isHarmless = (value: string): boolean => {
  const plain = unescaped(value);
  return (
    !/javascript:|expression\s*\(|@import|image-set|src\s*\(/i.test(plain) &&
    [...plain.matchAll(/url\s*\(\s*["']?\s*([^"')]*)/gi)].every((m) => m[1]!.trim().startsWith('#'))
  );
};

/** CSS can spell any letter as a backslash and its number. */
const unescaped = (css: string): string =>
  css
    .replace(/\/\*[\s\S]*?\*\//g, '')
    .replace(/\\([\da-f]{1,6})\s?/gi, (_, hex: string) => {
      const code = Number.parseInt(hex, 16);
      return code > 0 && code < 0x110000 ? String.fromCodePoint(code) : '';
    })
    .replace(/\\/g, '');

/** Properties of a style attribute, the harmless ones. */
function cleanDeclarations(css: string, tell: (why: string) => void): string {
  return css
    .split(';')
    .map((d) => d.trim())
    .filter((d) => {
      if (d === '') return false;
      const property = d.slice(0, d.indexOf(':')).trim().toLowerCase();
      // what programs write for themselves, and what would leave its place or move
      if (/^(-inkscape|-moz|-ms|-o-|behavior|animation|transition|position|content|cursor)/.test(property))
        return false;
      if (isHarmless(d)) return true;
      tell('something outside the file');
      return false;
    })
    .join(';');
}

const SELECTOR = /^[\w\s.,#:>*-]+$/;

/** Plain rules of a style sheet; rules that load, move or ask are left out. */
export function cleanStyleSheet(css: string, tell: (why: string) => void): string {
  const plain = css.replace(/\/\*[\s\S]*?\*\//g, '').replace(/<!--|-->/g, '');
  const out: string[] = [];
  for (let at = 0; at < plain.length; ) {
    const open = plain.indexOf('{', at);
    if (open < 0) break;
    const selector = plain
      .slice(at, open)
      .replace(/^[\s\S]*;/, '')
      .trim();
    let depth = 1;
    let end = open + 1;
    for (; end < plain.length && depth > 0; end++) depth += plain[end] === '{' ? 1 : plain[end] === '}' ? -1 : 0;
    const body = plain.slice(open + 1, end - 1);
    at = end;
    if (selector.startsWith('@') || body.includes('{') || !SELECTOR.test(selector)) {
      if (/^@(import|font-face|keyframes)/i.test(selector)) tell('fonts and movements of a style sheet');
      continue;
    }
    out.push(`${selector}{${cleanDeclarations(body, tell)}}`);
  }
  return out.join('\n').replace(/</g, '');
}

const escapeXml = (value: string): string =>
  value.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;');

/** Attributes as they stand in a file. */
export const attributesText = (attributes: Readonly<Record<string, string>>): string =>
  Object.entries(attributes)
    .map(([name, value]) => ` ${name}="${escapeXml(value)}"`)
    .join('');

interface Written {
  readonly tag: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: readonly Written[];
  readonly text: string;
}

/** What only drawing programs read. */
const FOR_PROGRAMS = /^(inkscape:|serif:|data-)/;

/** A cleaned element as text. */
export function svgText(node: Written): string {
  const kept = Object.fromEntries(Object.entries(node.attributes).filter(([name]) => !FOR_PROGRAMS.test(name)));
  const inside = escapeXml(node.text.trim() === '' ? '' : node.text) + node.children.map(svgText).join('');
  return `<${node.tag}${attributesText(kept)}${inside === '' ? '/>' : `>${inside}</${node.tag}>`}`;
}
