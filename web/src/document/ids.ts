let counter = 0;

export function freshId(stem: string): string {
  return `${stem}-${Date.now().toString(36)}${(counter++).toString(36)}`;
}
