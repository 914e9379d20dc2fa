'use client';

import type { Role } from '@/contract';
import { Field, inputLook } from '@/ui/field';
import { roles as texts } from './texts';

export const ROLES: readonly { value: Role; label: string; about: string }[] = [
  { value: 'viewer', label: texts.viewer, about: texts.looksPlaysExports },
  { value: 'animator', label: texts.animator, about: texts.importsDescribesFitsChanges },
  { value: 'librarian', label: texts.librarian, about: texts.tagsFieldsRestrictedFolders },
  { value: 'admin', label: texts.admin, about: texts.managesPeople },
];

/** The role of somebody who is to come, in a form. */
export function RoleField() {
  return (
    <Field label={texts.role}>
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
