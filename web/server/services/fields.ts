import { asc, eq } from 'drizzle-orm';
import type { CustomField, ItemChange, NewField } from '../../contract';
import type { Person } from '../auth/person';
import type { Queries } from '../db/client';
import { customFields } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId } from '../ids';
import { newGroup, record } from './history';

export const listFields = (db: Queries): Promise<CustomField[]> =>
  db
    .select({ id: customFields.id, name: customFields.name, type: customFields.type, options: customFields.options })
    .from(customFields)
    .orderBy(asc(customFields.position), asc(customFields.name));

const note = (db: Queries, person: Pick<Person, 'id'>, id: string, action: string, label: string): Promise<void> =>
  record(db, [{ subject: 'field', subjectId: id, groupId: newGroup(), personId: person.id, action, label }]);

/** Adds a field; one that was removed comes back under its own id, and with it what items hold in it. */
export async function addField(
  db: Queries,
  person: Pick<Person, 'id'>,
  field: NewField,
  id = newId(),
): Promise<CustomField> {
  if ((await db.select().from(customFields).where(eq(customFields.id, id))).length > 0)
    throw new Refusal(409, 'taken', 'There already is a field with this id.');
  const position = (await listFields(db)).length;
  await db.insert(customFields).values({ id, position, ...field });
  await note(db, person, id, 'add', `Added the field ${field.name}`);
  return { id, ...field };
}

export async function changeField(
  db: Queries,
  person: Pick<Person, 'id'>,
  id: string,
  change: { name?: string | undefined; options?: string[] | undefined },
): Promise<CustomField> {
  const [before] = await db.select().from(customFields).where(eq(customFields.id, id));
  if (!before) throw notFound('The field');
  await db
    .update(customFields)
    .set({ name: change.name ?? before.name, options: change.options ?? before.options })
    .where(eq(customFields.id, id));
  await note(db, person, id, 'edit', `Changed the field ${before.name}`);
  return (await listFields(db)).find((f) => f.id === id)!;
}

/**
 * What an item is given in fields of its own, as far as the library has them: they are few and short, and so is an item.
 * @throws Refusal 400 for a field that is not there, or a value that is not of its type
 */
export function checkedFields(
  known: readonly CustomField[],
  held: NonNullable<ItemChange['fields']>,
  given: NonNullable<ItemChange['fields']>,
): typeof given {
  for (const [id, value] of Object.entries(given)) {
    // what it has of a field that was removed since stays
    if (held[id] === value) continue;
    const field = known.find((f) => f.id === id);
    if (!field)
      throw new Refusal(
        400,
        'no-such-field',
        `The library has no field ${id.slice(0, 16)}. Reload the page and try again.`,
      );
    const fits =
      value === '' ||
      (field.type === 'number'
        ? typeof value === 'number'
        : field.type === 'yes'
          ? typeof value === 'boolean'
          : typeof value === 'string');
    if (!fits) throw new Refusal(400, 'invalid', `${field.name}: enter ${TAKES[field.type]}.`);
  }
  return given;
}

const TAKES = { text: 'text', number: 'a number', choice: 'one of the choices', yes: 'yes or no' } as const;

/** Removes a field. What items hold in it stays with them, so that adding it again by mistake costs nothing. */
export async function removeField(db: Queries, person: Pick<Person, 'id'>, id: string): Promise<void> {
  const [before] = await db.select().from(customFields).where(eq(customFields.id, id));
  if (!before) throw notFound('The field');
  await db.delete(customFields).where(eq(customFields.id, id));
  await note(db, person, id, 'remove', `Removed the field ${before.name}`);
}
