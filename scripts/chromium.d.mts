export declare const flags: string[]
export declare function findChromium(): string
export declare function chromiumVersion(path: string): string
/** An older Chromium from Debian's archives; null where it cannot be had. */
export declare function olderChromium(): string | null
