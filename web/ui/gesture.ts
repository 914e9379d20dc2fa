let count = 0;

/** A name for one drag, key held down or other go at a thing: what is changed under it is one step to take back. */
export const newGesture = (): string => `gesture ${++count}`;
