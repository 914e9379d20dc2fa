import { listed } from '@/naming/counts';
import { awaited as texts } from './texts';

/** Who is not on the stage yet because their motion is still worked out. */
export function Awaited({ names }: { names: readonly string[] }) {
  if (names.length === 0) return null;
  return (
    <p role="status" className="absolute bottom-2 left-3.5 text-muted">
      {texts.workingOut(listed(names), names.length > 1)}
    </p>
  );
}
