import { useQuery } from '@tanstack/react-query';
import type { CutoutArt } from '@velvet-reel/motion';
import { loadArt } from './paper-art';

/** The pictures of a cut-out, by the hash of their file; undefined until they are here, and where there are none. */
export const useArt = (hash: string | undefined): CutoutArt | undefined =>
  useQuery({
    queryKey: ['art', hash],
    queryFn: () => loadArt(hash!),
    enabled: hash !== undefined,
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
