import type { Model } from "../api/shapes";
import { shown } from "./numbers";

type Values = Record<string, unknown>;

/** One field as a subtitle shows it: a number with its digits, a choice by its label, a count. */
function told(value: unknown, name: string, model: Model | undefined): string {
  if (typeof value === "number") return shown(value);
  if (Array.isArray(value)) return String(value.length);
  const text = String(value ?? "");
  return model?.properties[name]?.sow?.labels?.[text] ?? text;
}

/**
 * A template as "{form}, {feature_m} m[, rising {rise} %]" with the entry's values; what stands
 * in brackets is left out where its field is 0 or empty.
 */
export function filled(template: string, entry: Values, model?: Model): string {
  const optional = template.replace(/\[([^\]]*)\]/g, (_all, part: string) => {
    const name = /\{(\w+)\}/.exec(part)?.[1];
    return name && entry[name] ? part : "";
  });
  return optional.replace(/\{(\w+)\}/g, (_all, name: string) => told(entry[name], name, model));
}
