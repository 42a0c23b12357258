export const CHROMIUM: string;
export function ensureInstalled(): void;
export function ensureBuilt(): void;
export function ensureChromium(): void;
