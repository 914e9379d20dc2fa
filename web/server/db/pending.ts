import { createConnection } from 'mysql2/promise';
import { encrypted } from './encrypted';
import { migrations, newest } from './migrate';

// How many migrations a database lacks; none where it is empty, for there is nothing to keep.
const connection = await createConnection({ uri: process.env.VELVET_DATABASE ?? '', ...encrypted() });
const last = await newest(connection);
console.log(last === 0 ? 0 : migrations().filter((m) => m.at > last).length);
await connection.end();
