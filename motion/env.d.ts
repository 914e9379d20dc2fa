// The few globals that browsers, workers and Node all have. The core may use these and nothing else of its host.
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean });
  decode(input?: Uint8Array): string;
}
declare class TextEncoder {
  encode(input?: string): Uint8Array<ArrayBuffer>;
}
