export const CHROMIUM: string;
export const FLAGS: string[];
export function ensureChromium(): boolean;
