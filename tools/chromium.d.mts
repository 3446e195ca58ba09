export function browserPath(): string;
export const FLAGS: string[];
export function ensureChromium(): boolean;
