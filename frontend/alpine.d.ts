declare const Alpine: { data(name: string, make: () => ThisType<any> & Record<string, any>): void; start(): void };
export default Alpine;
