import { INK, limb, oval, type P } from './draw';

/** A figure as somebody nobody asked would have drawn it: German layer names, nested groups, transforms on every level, a style sheet. */
export function strangersFigure(): string {
  const piece = (a: P, b: P, ra: number, rb: number): string =>
    limb(a, b, ra, rb, '#c7a35d').replace(/fill="#c7a35d" stroke="[^"]*" stroke-width="4"/, 'class="st0"');
  const arm = (s: 1 | -1): string => {
    const side = s > 0 ? 'links' : 'rechts';
    return `<g id="Arm_${side}"><g id="Oberarm_${side}">${piece([200 + 62 * s, 250], [200 + 108 * s, 330], 22, 18)}</g><g id="Unterarm_${side}">${piece([200 + 108 * s, 330], [200 + 130 * s, 420], 18, 15)}</g><g id="Hand_${side}">${oval([200 + 134 * s, 444], 17, 22, '#c7a35d', 3)}</g></g>`;
  };
  const leg = (s: 1 | -1): string => {
    const side = s > 0 ? 'links' : 'rechts';
    return `<g id="Bein_${side}" transform="translate(${30 * s} 0)"><g id="Oberschenkel_${side}">${piece([200, 440], [200, 540], 26, 20)}</g><g id="Unterschenkel_${side}">${piece([200, 540], [200, 640], 20, 15)}</g><g id="Fuß_${side}"><path class="st1" d="M${200 - 14 * s} 632L${200 - 16 * s} 664H${200 + 44 * s}L${200 + 36 * s} 648L${200 + 14 * s} 634Z"/></g></g>`;
  };
  return `<?xml version="1.0"?>
<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd" [<!ENTITY ns_svg "http://www.w3.org/2000/svg">]>
<svg version="1.1" id="Ebene_1" xmlns="&ns_svg;" xmlns:xlink="http://www.w3.org/1999/xlink" x="0px" y="0px" viewBox="0 0 400 700">
<style type="text/css">.st0{fill:#C7A35D;stroke:${INK};stroke-width:3;} .st1{fill:#5A3A2A;stroke:${INK};stroke-width:3;} .st2{fill:url(#Verlauf_1_);stroke:${INK};stroke-width:3;}</style>
<linearGradient id="Verlauf_1_" gradientUnits="userSpaceOnUse" x1="200" y1="220" x2="200" y2="470"><stop offset="0" style="stop-color:#7C4D6B"/><stop offset="1" style="stop-color:#4B2A42"/></linearGradient>
<g id="Figur" transform="matrix(1 0 0 1 0 6)">
${leg(-1)}
${leg(1)}
${arm(-1)}
<g id="Rumpf"><path class="st2" d="M138 240Q120 360 146 462Q200 480 254 462Q280 360 262 240Q200 212 138 240Z"/></g>
<g id="Kopf_x5F_alles"><g id="Hals">${piece([200, 240], [200, 196], 20, 20)}</g><g id="Kopf">${oval([200, 150], 58, 64, '#e2c68a')}</g><g id="Auge_links">${oval([222, 146], 8, 10, '#ffffff', 2)}</g><g id="Auge_rechts">${oval([178, 146], 8, 10, '#ffffff', 2)}</g><g id="Mund"><g id="offen" display="none">${oval([200, 184], 14, 10, '#7c2f3c', 2)}</g><g id="zu"><path d="M186 184H214" stroke="${INK}" stroke-width="3" fill="none"/></g></g><g id="Hut"><use xlink:href="#Krempe"/></g></g>
${arm(1)}
</g>
<defs><g id="Krempe"><path class="st1" d="M132 112Q200 132 268 112L262 96Q240 96 238 60H162Q160 96 138 96Z"/></g></defs>
</svg>`;
}
