/** What of a reel is worked on. */
export type Chosen =
  | { readonly kind: 'member'; readonly memberId: string; readonly id?: undefined }
  /** A placement, an overlay, a join (by the placement it leads to), or the keys of a frame. */
  | { readonly kind: 'base' | 'over' | 'join' | 'key'; readonly memberId: string; readonly id: string };
