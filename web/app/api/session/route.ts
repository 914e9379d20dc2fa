import type { NextRequest } from 'next/server';
import { signInLocal } from '@/server/auth/session';
import { checkOrigin, refuse } from '@/server/http';

/** Signs the local person in; see signInLocal. */
export async function POST(request: NextRequest): Promise<Response> {
  try {
    checkOrigin(request);
    const { id, name, role, performerId } = await signInLocal();
    return Response.json({ id, name, role, performerId });
  } catch (error) {
    return refuse(error);
  }
}
