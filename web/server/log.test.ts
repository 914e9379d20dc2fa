import { DrizzleQueryError } from 'drizzle-orm';
import { faultOf, nameOfQuery } from './log';

const SECRET = 'hunter2-and-the-whole-file';

test('a failed query is told by what it does and the database’s code, never by what it says', () => {
  const cause = Object.assign(new Error(`Duplicate entry '${SECRET}' for key 'people_email'`), {
    code: 'ER_DUP_ENTRY',
    errno: 1062,
    sqlState: '23000',
    sql: `insert into people values ('${SECRET}')`,
  });
  const error = new DrizzleQueryError('insert into `people` (`email`) values (?)', [SECRET], cause);
  const fault = faultOf(error);
  expect(JSON.stringify(fault)).not.toContain(SECRET);
  expect(fault).toMatchObject({ code: 'ER_DUP_ENTRY', query: 'insert people' });
  // also where another package has wrapped it, or the driver was asked directly
  expect(JSON.stringify(faultOf(new Error('wrapped', { cause: error })))).not.toContain(SECRET);
  expect(faultOf(cause)).toMatchObject({ query: 'insert people' });
  expect(JSON.stringify(faultOf(cause))).not.toContain(SECRET);
});

test('an error of our own keeps its words and where it was thrown', () => {
  const fault = faultOf(new TypeError('x is not a function'));
  expect(fault).toMatchObject({ error: 'TypeError', message: 'x is not a function' });
  expect(fault.at).toContain('log.test.ts');
  expect(faultOf('thrown text')).toEqual({ error: 'string' });
  expect(faultOf(new Error('y'.repeat(9000))).message).toHaveLength(300);
});

test.each([
  ['select `id` from `sessions` where `token` = ?', 'select sessions'],
  ['UPDATE items SET x = 1', 'update items'],
  ['delete from `uploads` where 1', 'delete uploads'],
  ['drop table x', 'drop x'],
])('%s is called %s', (sql, name) => {
  expect(nameOfQuery(sql)).toBe(name);
});
