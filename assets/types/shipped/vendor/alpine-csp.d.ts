// What the pages use of Alpine; the shipped script says no types of its own.

declare const Alpine: {
  data(name: string, make: () => Record<string, unknown> & ThisType<any>): void;
  start(): void;
  stopObservingMutations(): void;
};
export default Alpine;
