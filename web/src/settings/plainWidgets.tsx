import { useState } from "react";
import { Labelled } from "../controls/Labelled";
import { Range } from "../controls/Range";
import { get } from "../state/store";
import type { WidgetProps } from "./widget";

/** A switch. */
export function Switch({ prop, name, label, value, onKeep }: WidgetProps<boolean>) {
  return (
    <label className="mt-1 flex items-center gap-2" title={prop.description}>
      <input
        type="checkbox"
        className="accent-moss"
        data-field={name}
        checked={!!value}
        onChange={(e) => onKeep(e.target.checked)}
      />
      {label}
    </label>
  );
}

type Choice = string | number;

/** One of a few values, side by side. */
export function Buttons({ prop, label, value, onKeep }: WidgetProps<Choice>) {
  return (
    <Labelled label={label} help={prop.description}>
      <span className="flex">
        {prop.enum!.map((o) => (
          <button
            key={o}
            className={`btn -ml-px ${o === value ? "on" : ""}`}
            aria-pressed={o === value}
            onClick={() => onKeep(o)}
          >
            {prop.sow?.labels?.[o] ?? o}
          </button>
        ))}
      </span>
    </Labelled>
  );
}

/** One of many values, or of numbers that have names. */
export function Choices({ prop, label, value, onKeep }: WidgetProps<Choice>) {
  const named = prop.sow?.choices;
  const options: [Choice, string][] = named
    ? Object.entries(named)
    : prop.enum!.map((o) => [o, prop.sow?.labels?.[o] ?? String(o)]);
  return (
    <Labelled label={label} help={prop.description}>
      <select
        className="text"
        aria-label={label}
        value={value}
        onChange={(e) => onKeep(named ? Number(e.target.value) : e.target.value)}
      >
        {options.map(([key, word]) => (
          <option key={key} value={key}>
            {word}
          </option>
        ))}
      </select>
    </Labelled>
  );
}

/** A colour of its own picker. */
export function Colour({ prop, label, value, onDrag, onKeep }: WidgetProps<string>) {
  return (
    <Labelled label={label} help={prop.description}>
      <input
        type="color"
        aria-label={label}
        value={value}
        className="h-[18px] w-9 border border-ink bg-paper p-0"
        onChange={(e) => onDrag(e.target.value)}
        onBlur={(e) => onKeep(e.target.value)}
      />
    </Labelled>
  );
}

/** A value that is told, not set. */
export function Told({ prop, label, value }: WidgetProps<string>) {
  if (!value) return null;
  return (
    <Labelled label={label} help={prop.description}>
      <span className="truncate text-soft">{value}</span>
    </Labelled>
  );
}

/** An end of a slider: a number, or a measure of the plot. */
function limit(end: number | string | null | undefined, fallback: number): number {
  const { doc, manifest } = get();
  if (typeof end === "number") return end;
  const measures: Record<string, number | undefined> = {
    width: doc?.plot.width_m,
    depth: doc?.plot.depth_m,
    lowest: manifest ? Math.floor(manifest.lowest) : 0,
    highest: manifest ? Math.ceil(manifest.highest) : 100,
  };
  return measures[end ?? ""] ?? fallback;
}

/** A number on a slider. */
export function Amount({ prop, label, value, onDrag, onKeep }: WidgetProps<number>) {
  const shown = prop.sow ?? {};
  const whole = prop.type === "integer";
  const min = prop.minimum ?? -1e9;
  const max = prop.maximum ?? 1e9;
  // a slider that a value was typed beyond reaches as far as that, and stays so while it is dragged
  const [reach, setReach] = useState<[number, number]>([Infinity, -Infinity]);
  const usual = limit(shown.slider?.[0], min);
  const least = shown.scale === "log" && value <= 0 ? usual : value;
  const low = Math.min(reach[0], least, usual);
  const high = Math.max(reach[1], value, limit(shown.slider?.[1], max));
  if (low < reach[0] || high > reach[1]) setReach([low, high]);
  const fit = (v: number) => (whole ? Math.round(v) : v);
  return (
    <Range
      label={label}
      value={value}
      unit={shown.unit ?? ""}
      min={min}
      max={max}
      low={low}
      high={Math.max(high, low + 1e-3)}
      log={shown.scale === "log" && low > 0}
      step={shown.step ?? (whole ? 1 : undefined)}
      help={prop.description}
      onDrag={(v) => onDrag(fit(v))}
      onKeep={(v) => onKeep(fit(v))}
    />
  );
}
