/** Where the capture stage is that live takes come from: VELVET_STAGE, or the stand-in on this machine. */
export const stageAddress = (): string => process.env.VELVET_STAGE ?? 'ws://127.0.0.1:4720';
