import type { OwnKind } from "../api/shapes";
import { NumberField } from "../controls/NumberField";
import { usePage } from "../state/store";

type OwnSurface = NonNullable<OwnKind["surfaces"]>[number];

const USUAL = { rough: 90, metal: 0, glass: 0 };

/** What is changed of one surface of a model: its colour, how it shines, what is laid on it. */
export function SurfaceForm({
  name,
  number,
  surface,
  onChange,
}: {
  name: string;
  number: number;
  surface: OwnSurface;
  onChange: (v: Partial<OwnSurface>) => void;
}) {
  const grounds = usePage((s) => s.cabinet!.grounds);
  const percent = (
    key: "bright" | "light" | "rough" | "metal" | "glass",
    label: string,
    most: number,
    help?: string,
  ) => (
    <span title={help}>
      {label.toLowerCase()}{" "}
      <NumberField
        label={`${label} of surface ${number}`}
        value={surface[key] ?? (key in USUAL ? USUAL[key as keyof typeof USUAL] : 0)}
        unit="%"
        onKeep={(v) => onChange({ [key]: Math.min(most, Math.max(key === "rough" ? 1 : 0, v)) })}
      />
    </span>
  );
  return (
    <div className="mt-1 border-t border-rule/70 pt-1" data-surface={number - 1}>
      <div className="flex items-center justify-between gap-2">
        <b className="truncate font-normal">{name}</b>
        <input
          type="color"
          aria-label={`Tint of surface ${number}`}
          value={surface.tint}
          className="h-[18px] w-9 border border-ink bg-paper p-0"
          onChange={(e) => onChange({ tint: e.target.value })}
        />
      </div>
      <div className="grid grid-cols-2 gap-x-3 text-[12px]">
        {percent("bright", "Lightness", 400)}
        {percent("light", "Light through", 100, "Light that comes through, as through leaves")}
        {percent("rough", "Roughness", 100)}
        {percent("metal", "Metal", 100)}
        {percent("glass", "Glass", 100, "Light straight through, as of a pane")}
      </div>
      <div className="flex items-center justify-between gap-2 text-[12px]">
        <select
          className="text max-w-[150px]"
          aria-label={`Picture of surface ${number}`}
          value={surface.ground ?? ""}
          onChange={(e) => onChange({ ground: e.target.value })}
        >
          <option value="">its own picture</option>
          {grounds.map((g) => (
            <option key={g.name} value={g.name}>
              {g.label}
            </option>
          ))}
        </select>
        {surface.ground && (
          <span>
            every{" "}
            <NumberField
              label={`Repeat on surface ${number}`}
              value={surface.ground_m ?? 2}
              unit="m"
              onKeep={(v) => onChange({ ground_m: Math.min(50, Math.max(0.05, v)) })}
            />
          </span>
        )}
      </div>
    </div>
  );
}
