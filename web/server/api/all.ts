import { castEndpoints } from './cast';
import type { Endpoint } from './endpoint';
import { itemEndpoints } from './items';
import { jobEndpoints } from './jobs';
import { libraryEndpoints } from './library';
import { peopleEndpoints } from './people';
import { playEndpoints } from './plays';
import { reelEndpoints } from './reels';
import { supplierEndpoints } from './supplier';

/** Everything the server answers to, in the order of the document. Fixed addresses stand before those with braces. */
export const ENDPOINTS: readonly Endpoint[] = [
  ...itemEndpoints,
  ...libraryEndpoints,
  ...jobEndpoints,
  ...castEndpoints,
  ...reelEndpoints,
  ...playEndpoints,
  ...supplierEndpoints,
  ...peopleEndpoints,
];
