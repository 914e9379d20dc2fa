export * from './cast';
export * from './items';
export * from './jobs';
export * from './library';
export * from './people';
export * from './provenance';
export * from './reels';
export * from './shape';
