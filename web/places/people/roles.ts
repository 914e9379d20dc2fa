import type { Role } from '@/contract';

export const ROLES: readonly { value: Role; label: string; about: string }[] = [
  { value: 'viewer', label: 'viewer', about: 'looks, plays, exports' },
  { value: 'animator', label: 'animator', about: 'imports, describes, fits, changes' },
  { value: 'librarian', label: 'librarian', about: 'tags, fields, restricted folders, the bin' },
  { value: 'admin', label: 'admin', about: 'manages people' },
];
