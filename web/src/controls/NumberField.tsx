import { useState } from "react";
import { shown } from "../document/numbers";

/** A small number that is typed. */
export function NumberField({
  label,
  value,
  unit,
  onKeep,
  signed,
}: {
  label: string;
  value: number;
  unit: string;
  onKeep: (v: number) => void;
  signed?: boolean;
}) {
  const [text, setText] = useState<string | null>(null);
  const now = text ?? shown(value);
  const keep = () => {
    const v = parseFloat((text ?? "").replace(/[, ]/g, ""));
    if (text !== null && Number.isFinite(v) && (signed || v >= 0) && v !== value) onKeep(v);
    setText(null);
  };
  return (
    <span className="whitespace-nowrap">
      <input
        className="num"
        aria-label={label}
        style={{ width: `${Math.max(3, now.length + 0.6)}ch` }}
        value={now}
        onFocus={(e) => {
          setText(String(+value.toPrecision(6)));
          e.target.select();
        }}
        onChange={(e) => setText(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === "Enter") (e.target as HTMLInputElement).blur();
          if (e.key === "Escape") {
            setText(null);
            (e.target as HTMLInputElement).blur();
          }
          e.stopPropagation();
        }}
      />{" "}
      <span className="text-soft">{unit}</span>
    </span>
  );
}
