export function useTestFolder(): void;
