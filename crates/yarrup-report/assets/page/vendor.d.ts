/** What the checker of types does not know yet. */
declare class DecompressionStream {
  constructor(format: string);
  readable: ReadableStream<Uint8Array>;
  writable: WritableStream<Uint8Array>;
}

/** The little of the vendored components that the scripts of the pages use. */
declare class Tabulator {
  constructor(place: HTMLElement, options: object);
  on(event: string, heard: (...parts: any[]) => void): void;
  setFilter(fits: (row: any) => boolean): void;
  clearFilter(): void;
  getData(which: string): any[];
}
declare class uPlot {
  constructor(options: object, values: (number[] | Uint32Array)[], place: HTMLElement);
  [member: string]: any;
}
