export declare const flags: string[]
export declare function findChromium(): string
export declare function chromiumVersion(path: string): string
