import { unzipSync } from 'fflate';

/** What a set of drawings consists of: pictures, and a list of them. */
export const isPicture = (name: string): boolean => /\.(png|json)$/i.test(name) && !/(^|\/)(\.|__MACOSX\/)/.test(name);

/** Whether an archive is a set of drawings and not a folder of motion: PNG pictures alone, perhaps with a list beside them. */
export function holdsDrawings(archive: Uint8Array): boolean {
  let [pictures, others] = [0, 0];
  try {
    unzipSync(archive, {
      filter: ({ name }) => {
        if (name.endsWith('/') || /(^|\/)(\.|__MACOSX\/|Thumbs\.db$)/i.test(name)) return false;
        if (/\.png$/i.test(name)) pictures++;
        else if (!/\.(json|txt|md)$/i.test(name)) others++;
        return false;
      },
    });
  } catch {
    return false;
  }
  return pictures >= 3 && others === 0;
}
