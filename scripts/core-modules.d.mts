export function coreModules(): string
