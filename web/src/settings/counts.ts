import type { Prop } from "../api/shapes";

/** Whether a field counts: the fields that it depends on hold one of the values that it names. */
export function counts(prop: Prop, entry: Record<string, unknown> | undefined): boolean {
  const { only, given } = prop.sow ?? {};
  if (given && !entry?.[given]) return false;
  return Object.entries(only ?? {}).every(([name, values]) =>
    values.includes(String(entry?.[name])),
  );
}
