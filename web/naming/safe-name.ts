/** Names that Windows keeps for devices, whatever follows a dot. */
const DEVICE = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i;

/**
 * One segment of a path in an archive, safe on every system: no separators, drive letters or control characters, no leading or
 * trailing dots and spaces, so that nothing leads out of the folder that it is unpacked into.
 */
export function safeName(name: string): string {
  const plain = name
    .normalize('NFC')
    .replace(/[\\/:*?"<>|\p{Cc}\p{Cf}]/gu, '_')
    .replace(/^[. ]+|[. ]+$/g, '');
  return (DEVICE.test(plain) ? `_${plain}` : plain).slice(0, 200) || '_';
}
