export function isLocalRequest(headers: { get(name: string): string | null }, path: string): boolean;
export function doorHeaders(path: string): Readonly<Record<string, string>>;
