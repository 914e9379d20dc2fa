'use client';

import { ApiError } from './api';

/**
 * Saves what a server answered as a file, under the name it gives.
 * @returns the name
 * @throws ApiError with the server's sentence where it refused
 */
export async function saveFile(answer: Response, fallback: string): Promise<string> {
  if (!answer.ok) {
    const { message, code } = (await answer.json()) as { message: string; code?: string };
    throw new ApiError(answer.status, code ?? '', message);
  }
  const link = document.createElement('a');
  link.href = URL.createObjectURL(await answer.blob());
  link.download = decodeURIComponent(
    /filename\*=UTF-8''(.+)$/.exec(answer.headers.get('content-disposition') ?? '')?.[1] ?? fallback,
  );
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  return link.download;
}
