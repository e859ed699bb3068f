import { useRef } from "react";
import { chooseFiles, watch } from "../../actions/watchFiles";
import * as calls from "../../api/calls";
import { freshId } from "../../document/ids";
import { complete, modelOf } from "../../document/schema";
import { CabinetChoice } from "../../settings/CabinetChoice";
import { edit } from "../../state/edits";
import { get, set, usePage } from "../../state/store";
import { tell } from "../../state/trouble";

const FILES = ".csv,.txt,.json,.geojson,.glb";

const read = (file: File) => calls.readPlaces(get().id!, file);

/**
 * A sowing at the places of a file; names that are known stand for their kinds at once, others wait
 * in the table.
 */
async function bring(file: File): Promise<string | null> {
  try {
    const found = await read(file);
    const schema = get().catalogue!.scene;
    const id = freshId("places");
    const fallback = "boulder";
    const kinds = new Map<string, string[]>();
    found.names.forEach((n, i) => {
      const k = found.likely[i] || "";
      if (k) kinds.set(k, [...(kinds.get(k) ?? []), n]);
    });
    if (!kinds.size) kinds.set(fallback, [found.names[0]]);
    const name =
      file.name
        .replace(/\.[^.]+$/, "")
        .replace(/[_-]+/g, " ")
        .slice(0, 60) || "Places";
    await edit(`Places of ${file.name}`, (d) =>
      d.planting.push(
        complete(schema, modelOf(schema, "planting"), {
          id,
          name,
          on: true,
          layout: "given",
          places: found.places,
          places_from: found.name,
          names: found.names,
          keeps_off: 0,
          wet: true,
          apart_m: 0,
          mix: [...kinds].map(([kind, called]) => ({ kind, called, share: 10 })),
          stance: { smallest: 100, largest: 100, sway: 0 },
        }) as never,
      ),
    );
    set({
      chosen: id,
      open: "planting",
      told: [
        `${found.counts.reduce((a, b) => a + b, 0).toLocaleString("en")} places ` +
          `with ${found.names.length} name${found.names.length > 1 ? "s" : ""}.`,
        ...found.told,
      ].join(" "),
    });
    return id;
  } catch (e) {
    tell(e);
    return null;
  }
}

/**
 * The file anew: its places are taken over, the table of names stays. Says whether the sowing is
 * still there.
 */
async function again(id: string, file: File): Promise<boolean> {
  const old = get().doc?.planting.find((s) => s.id === id);
  if (!old) return false;
  try {
    const found = await read(file);
    await edit(`${old.name}: places read again`, (d) => {
      const s = d.planting.find((x) => x.id === id)!;
      s.places = found.places;
      s.names = found.names;
      s.places_from = found.name;
    });
    const known = new Set(old.mix.flatMap((p) => p.called ?? []));
    const fresh = found.names.filter((n) => !known.has(n));
    set({
      told: [
        `${found.counts.reduce((a, b) => a + b, 0).toLocaleString("en")} places read again.`,
        fresh.length ? `Names without a kind: ${fresh.slice(0, 6).join(", ")}.` : "",
        ...found.told,
      ]
        .filter(Boolean)
        .join(" "),
    });
  } catch (e) {
    tell(e);
  }
  return true;
}

function useChoice(take: (file: File) => Promise<string | null>) {
  const input = useRef<HTMLInputElement>(null);
  const choose = async () => {
    const found = await chooseFiles(false);
    if (!found) {
      input.current?.click();
      return;
    }
    if (!found.files.length) return;
    const id = await take(found.files[0]);
    if (id) watch(`places ${id}`, found.files, found.handles, ([f]) => again(id, f));
  };
  return { input, choose };
}

export function PlacesButton() {
  const { input, choose } = useChoice(bring);
  return (
    <>
      <button
        className="btn"
        data-places
        title="CSV, GeoJSON points, or a GLB with named nodes"
        onClick={() => void choose()}
      >
        Places from a file…
      </button>
      <input
        ref={input}
        type="file"
        accept={FILES}
        className="hidden"
        data-places-file
        onChange={(e) => {
          const f = e.target.files?.[0];
          if (f) void bring(f);
          e.target.value = "";
        }}
      />
    </>
  );
}

/** Which kind each name of the file stands for. */
export function PlacesTable({
  index,
  entry,
}: {
  index: number;
  entry: {
    id: string;
    name: string;
    names: string[];
    mix: { kind: string; called?: string[] }[];
    places_from: string;
  };
}) {
  const { input, choose } = useChoice(async (f) => ((await again(entry.id, f)) ? entry.id : null));
  const line = usePage((s) => s.manifest?.sown.find((x) => x.id === entry.id));
  const kindOf = (n: string) => entry.mix.find((p) => p.called?.includes(n))?.kind ?? "";
  const give = (name: string, kind: string) =>
    void edit(`${entry.name}: ${name} is ${kind}`, (d) => {
      const s = d.planting[index];
      const schema = get().catalogue!.scene;
      for (const p of s.mix) p.called = (p.called ?? []).filter((n) => n !== name);
      const part = s.mix.find((p) => p.kind === kind);
      if (part) part.called = [...(part.called ?? []), name];
      else
        s.mix.push(complete(schema, modelOf(schema, "mix"), { kind, called: [name], share: 10 }));
      const used = s.mix.filter((p) => p.called!.length);
      if (used.length) s.mix = used;
    });
  return (
    <div className="mt-1 border-b border-rule pb-1" data-places-table>
      <div className="flex items-center justify-between gap-2">
        <span className="truncate text-soft">
          {entry.places_from}: {line?.count.toLocaleString("en") ?? "…"} stand of{" "}
          {line?.wished.toLocaleString("en") ?? "…"}
        </span>
        <button className="btn" data-places-again onClick={() => void choose()}>
          Read again…
        </button>
      </div>
      <input
        ref={input}
        type="file"
        accept={FILES}
        className="hidden"
        data-places-again-file
        onChange={(e) => {
          const f = e.target.files?.[0];
          if (f) void again(entry.id, f);
          e.target.value = "";
        }}
      />
      <div className="max-h-[180px] overflow-y-auto">
        {entry.names.map((n) => (
          <div key={n} className="grid grid-cols-[90px_1fr] items-center gap-2" data-name={n}>
            <span className={`truncate ${kindOf(n) ? "" : "text-rust"}`} title={n}>
              {n}
            </span>
            <CabinetChoice
              drawer="kind"
              value={kindOf(n)}
              label={kindOf(n) ? "Kind" : "stands for nothing yet"}
              onKeep={(k) => give(n, k)}
            />
          </div>
        ))}
      </div>
    </div>
  );
}
