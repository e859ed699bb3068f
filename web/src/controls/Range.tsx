import { Slider } from "radix-ui";
import { useRef, useState } from "react";
import { shown } from "../document/numbers";

export function Range({
  label,
  value,
  unit,
  min,
  max,
  low,
  high,
  log,
  step,
  help,
  onDrag,
  onKeep,
}: {
  label: string;
  value: number;
  unit: string;
  min: number;
  max: number;
  low: number;
  high: number;
  log: boolean;
  step?: number;
  help?: string;
  onDrag: (v: number) => void;
  onKeep: (v: number) => void;
}) {
  const to = (v: number) =>
    log
      ? (Math.log(Math.max(v, low) / low) / Math.log(high / low)) * 1000
      : ((v - low) / (high - low || 1)) * 1000;
  const from = (t: number) => {
    const v = log ? low * Math.pow(high / low, t / 1000) : low + ((high - low) * t) / 1000;
    const grain =
      step ??
      (log
        ? Math.pow(10, Math.floor(Math.log10(Math.max(v, 1e-6))) - 2)
        : Math.pow(10, (Math.floor(Math.log10(Math.max(high - low, 1e-6))) - 2.5) | 0));
    return Math.min(max, Math.max(min, +(Math.round(v / grain) * grain).toPrecision(7)));
  };
  const [text, setText] = useState<string | null>(null);
  const timer = useRef(0);
  const keepText = () => {
    if (text === null) return;
    const v = parseFloat(text.replace(",", "."));
    setText(null);
    if (Number.isFinite(v) && v !== value) onKeep(Math.min(max, Math.max(min, v)));
  };
  return (
    <div className="mt-1" title={help}>
      <div className="flex items-baseline justify-between gap-2">
        <span>{label}</span>
        <span className="flex items-baseline gap-[3px]">
          <input
            className="num"
            style={{ width: `${Math.max(3, (text ?? shown(value)).length + 0.6)}ch` }}
            aria-label={`${label} in ${unit || "steps"}`}
            value={text ?? shown(value)}
            onFocus={(e) => {
              setText(String(+value.toFixed(4)));
              e.target.select();
            }}
            onChange={(e) => setText(e.target.value)}
            onBlur={keepText}
            onKeyDown={(e) => {
              if (e.key === "Enter") (e.target as HTMLInputElement).blur();
              if (e.key === "Escape") {
                setText(null);
                (e.target as HTMLInputElement).blur();
              }
              e.stopPropagation();
            }}
          />
          <span className="text-soft text-[11.5px]">{unit}</span>
        </span>
      </div>
      <Slider.Root
        className="relative flex h-[15px] touch-none items-center select-none"
        min={0}
        max={1000}
        step={1}
        value={[Math.min(1000, Math.max(0, to(value)))]}
        onValueChange={([t]) => {
          window.clearTimeout(timer.current);
          onDrag(from(t));
        }}
        onValueCommit={([t]) => onKeep(from(t))}
      >
        <Slider.Track className="relative h-[1.5px] grow bg-rule">
          <Slider.Range className="absolute h-full bg-moss" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={label}
          className={
            "block h-[11px] w-[11px] rounded-full border-2 border-moss bg-paper " +
            "hover:bg-paper2"
          }
        />
      </Slider.Root>
    </div>
  );
}
