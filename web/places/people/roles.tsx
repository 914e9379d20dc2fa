'use client';

import type { Role } from '@/contract';
import { Field, inputLook } from '@/ui/field';

export const ROLES: readonly { value: Role; label: string; about: string }[] = [
  { value: 'viewer', label: 'viewer', about: 'looks, plays, exports' },
  { value: 'animator', label: 'animator', about: 'imports, describes, fits, changes' },
  { value: 'librarian', label: 'librarian', about: 'tags, fields, restricted folders, the bin' },
  { value: 'admin', label: 'admin', about: 'manages people' },
];

/** The role of somebody who is to come, in a form. */
export function RoleField() {
  return (
    <Field label="Role">
      <select name="role" defaultValue="animator" className={inputLook}>
        {ROLES.map((r) => (
          <option key={r.value} value={r.value}>
            {r.label}: {r.about}
          </option>
        ))}
      </select>
    </Field>
  );
}
