import { Readable } from 'node:stream';
import type { ReadableStream as NodeStream } from 'node:stream/web';
import { MAX_FILE_BYTES } from '@velvet-reel/motion';
import busboy from 'busboy';
import type { NextRequest } from 'next/server';
import type { Person } from '../auth/person';
import { database } from '../db/client';
import { Refusal } from '../errors';
import { demandQuota } from '../services/quotas';
import { demandRoom } from './space';

export interface Upload {
  name: string;
  bytes: Uint8Array;
  /** The skeleton file that came along, for formats in two files. */
  skeleton?: Uint8Array;
}

/**
 * Streams a file, and the skeleton that may go with it, out of a form, stopping at the limit rather than after it.
 * @throws Refusal 507 where there is no room for it, on the disk or in a quota; 413 beyond the limit; 400 for no such form
 */
export async function readUpload(
  request: NextRequest,
  person: Pick<Person, 'id'>,
  limit = MAX_FILE_BYTES,
): Promise<Upload> {
  const told = Number(request.headers.get('content-length') ?? limit);
  await demandRoom(told);
  await demandQuota(database(), person, told);
  return new Promise((resolve, reject) => {
    const type = request.headers.get('content-type') ?? '';
    if (!type.startsWith('multipart/form-data') || !request.body)
      return reject(new Refusal(400, 'no-file', 'Send a form with one file.'));
    const form = busboy({
      headers: { 'content-type': type },
      limits: { files: 2, fields: 0, fileSize: limit },
      defParamCharset: 'utf8',
    });
    let found: Upload | undefined;
    let skeleton: Uint8Array | undefined;
    form.on('file', (field, stream, info) => {
      const chunks: Buffer[] = [];
      stream.on('data', (chunk: Buffer) => chunks.push(chunk));
      stream.on('limit', () =>
        reject(
          new Refusal(
            413,
            'too-large',
            `${info.filename}: it has more than ${limit / 2 ** 20} MiB, which is the most that is accepted.`,
          ),
        ),
      );
      stream.on('close', () => {
        const bytes = new Uint8Array(Buffer.concat(chunks));
        if (field === 'skeleton') skeleton = bytes;
        else found = { name: (info.filename || 'file').slice(0, 300), bytes };
      });
    });
    form.on('close', () =>
      found
        ? resolve({ ...found, ...(skeleton && { skeleton }) })
        : reject(new Refusal(400, 'no-file', 'The form holds no file.')),
    );
    form.on('error', () => reject(new Refusal(400, 'broken-form', 'The upload broke off. Try again.')));
    const source = Readable.fromWeb(request.body as unknown as NodeStream);
    source.on('error', () => reject(new Refusal(400, 'broken-form', 'The upload broke off. Try again.')));
    source.pipe(form);
  });
}
