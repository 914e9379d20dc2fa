import { customType } from 'drizzle-orm/mysql-core';

/** Bytes up to 4 GiB. */
export const longblob = customType<{ data: Uint8Array; driverData: Buffer }>({
  dataType: () => 'longblob',
  toDriver: (value) => Buffer.from(value.buffer, value.byteOffset, value.byteLength),
  fromDriver: (value) => new Uint8Array(value.buffer, value.byteOffset, value.byteLength),
});

/** At most `most` bytes. */
export const plainBytes = (most: number) =>
  customType<{ data: Uint8Array; driverData: Buffer }>({
    dataType: () => `varbinary(${most})`,
    toDriver: (value) => Buffer.from(value.buffer, value.byteOffset, value.byteLength),
    fromDriver: (value) => new Uint8Array(value.buffer, value.byteOffset, value.byteLength),
  });

/** At most `most` signed bytes. */
export const signedBytes = (most: number) =>
  customType<{ data: Int8Array; driverData: Buffer }>({
    dataType: () => `varbinary(${most})`,
    toDriver: (value) => Buffer.from(value.buffer, value.byteOffset, value.byteLength),
    fromDriver: (value) => new Int8Array(value.buffer, value.byteOffset, value.byteLength),
  });

/** JSON kept as text: MariaDB's JSON is text too, and this way the driver hands back what was written. */
export const jsonText = <T>() =>
  customType<{ data: T; driverData: string }>({
    dataType: () => 'longtext',
    toDriver: (value) => JSON.stringify(value),
    fromDriver: (value) => JSON.parse(value) as T,
  });
