import { Labelled } from "../controls/Labelled";
import { listOf, type ListName, pathOf } from "../document/lists";
import { at, type Path } from "../document/path";
import { usePage } from "../state/store";

/**
 * One entry of a list by name: of the land only landforms, of materials and sowings only those
 * before the entry that asks.
 */
export function EntryChoice({
  list,
  far,
  label,
  value,
  none,
  onKeep,
  help,
  path,
}: {
  list: string;
  far: boolean;
  label: string;
  value: string;
  none?: string;
  onKeep: (v: string) => void;
  help?: string;
  path: Path;
}) {
  const doc = usePage((s) => s.doc);
  // a material of the far land looks at those of the far land
  const from = (list === "ground" && path[0] === "beyond" ? "far ground" : list) as ListName;
  const own = doc ? listOf(doc, from) : [];
  const all = far && doc ? [...own, ...listOf(doc, "far")] : own;
  const depth = pathOf(from, 0).length - 1;
  const earlier = path[0] === pathOf(from, 0)[0] && typeof path[depth] === "number";
  const forms =
    list === "land"
      ? all.filter((e) => e.combine)
      : earlier
        ? all.slice(0, path[depth] as number)
        : all;
  return (
    <Labelled label={label} help={help}>
      <select
        className="text max-w-[170px]"
        aria-label={label}
        value={forms.some((e) => e.id === value) ? value : ""}
        onChange={(e) => onKeep(e.target.value)}
      >
        <option value="">
          {value && !forms.some((e) => e.id === value) ? "gone: choose…" : (none ?? "choose…")}
        </option>
        {forms.map((e) => (
          <option key={e.id} value={e.id}>
            {e.name}
          </option>
        ))}
      </select>
    </Labelled>
  );
}

/** One surface of the model that a sowing stands on. */
export function SurfaceChoice({
  path,
  label,
  value,
  onKeep,
}: {
  path: Path;
  label: string;
  value: string;
  onKeep: (v: string) => void;
}) {
  const piece = usePage((s) =>
    s.doc?.pieces.find(
      (p) => p.id === at<{ stands_on?: string } | undefined>(s.doc, path)?.stands_on,
    ),
  );
  const names =
    usePage((s) => s.cabinet?.kinds.find((k) => k.name === piece?.kind)?.surfaces) ?? [];
  if (!names.length) return null;
  return (
    <Labelled label={label}>
      <select
        className="text max-w-[170px]"
        aria-label={label}
        value={value}
        onChange={(e) => onKeep(e.target.value)}
      >
        <option value="">all of it</option>
        {names.map((n) => (
          <option key={n}>{n}</option>
        ))}
      </select>
    </Labelled>
  );
}

export function MarkChoice({
  kind,
  value,
  onKeep,
}: {
  kind: string;
  value: string;
  onKeep: (v: string) => void;
}) {
  const marks = usePage((s) => s.doc?.marks ?? []).filter(
    (m) => m.kind === kind || (kind === "line" && m.kind === "area"),
  );
  const word = { mask: "Mask", line: "Line", area: "Area" }[kind] ?? kind;
  if (!marks.length)
    return (
      <div className="mt-1 text-soft">
        {kind === "mask"
          ? "No mask yet: drop a picture on the section Marks."
          : `No ${kind} yet: draw one under Marks.`}
      </div>
    );
  return (
    <Labelled label={word}>
      <select
        className="text max-w-[170px]"
        aria-label={word}
        value={marks.some((m) => m.id === value) ? value : ""}
        onChange={(e) => onKeep(e.target.value)}
      >
        {!marks.some((m) => m.id === value) && (
          <option value="">{value ? "gone: choose…" : "choose…"}</option>
        )}
        {marks.map((m) => (
          <option key={m.id} value={m.id}>
            {m.name}
          </option>
        ))}
      </select>
    </Labelled>
  );
}

/** Sowings ticked by name. */
export function EntryTicks({
  list,
  label,
  value,
  onKeep,
}: {
  list: ListName;
  label: string;
  value: string[];
  onKeep: (v: string[]) => void;
}) {
  const doc = usePage((s) => s.doc);
  const sowings = doc ? listOf(doc, list) : [];
  if (!sowings.length) return null;
  return (
    <div className="mt-1">
      <div className="text-soft">{label}</div>
      <div className="grid grid-cols-2">
        {sowings.map((s) => (
          <label key={s.id} className="flex items-center gap-1 truncate">
            <input
              type="checkbox"
              className="accent-moss"
              checked={value.includes(s.id)}
              onChange={(e) =>
                onKeep(e.target.checked ? [...value, s.id] : value.filter((x) => x !== s.id))
              }
            />
            {s.name}
          </label>
        ))}
      </div>
    </div>
  );
}
