export function postgresBin(): string | null;
export function dockrowHome(name?: string): string;
