import { type CutoutArt, type CutoutRig, ORDER_TRACK, orderOf, viewTrack } from '@velvet-reel/motion';
import { drawingAddress } from '@/stage/paper-art';

/** The drawing that a label stands for, as an address for an image: of a part its drawing, of a joint's view its first part's. */
export function pictureOf(rig: CutoutRig, art: CutoutArt, track: string, label: string): string | undefined {
  const part =
    rig.parts.find((p) => p.name === track) ??
    rig.parts.find((p) => p.view === label && viewTrack(rig.names[p.joint]!) === track);
  if (!part) return undefined;
  const drawing = art.drawings.find(
    (d) => d.part === part.name && d.label === (part.name === track ? label : part.drawings[0]),
  );
  return drawing && drawingAddress(art, drawing, 2);
}

/** What a label says, in words: of an order the parts that stand nearer than they were drawn. */
export function wordsOf(track: string, label: string, rig: CutoutRig | undefined): string {
  if (track !== ORDER_TRACK || !rig) return label;
  const order = orderOf(label);
  const nearer = rig.parts.filter((_, i) => order.indexOf(i) > i).map((p) => p.name);
  if (nearer.length === 0) return 'as drawn';
  return `${nearer.slice(0, 2).join(', ')}${nearer.length > 2 ? ' …' : ''} nearer`;
}
