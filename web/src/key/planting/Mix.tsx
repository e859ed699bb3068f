import { Trash2 } from "lucide-react";
import { useState } from "react";
import type { Sowing } from "../../api/shapes";
import { AddMenu } from "../../controls/AddMenu";
import { Fold } from "../../controls/Fold";
import { NumberField } from "../../controls/NumberField";
import { Range } from "../../controls/Range";
import { shown } from "../../document/numbers";
import { at, type Path, put } from "../../document/path";
import { complete, modelOf } from "../../document/schema";
import { CabinetChoice } from "../../settings/CabinetChoice";
import { Settings } from "../../settings/Settings";
import { drag, edit } from "../../state/edits";
import { useOffers } from "../../state/offers";
import { set, usePage } from "../../state/store";
import { MaskBrush } from "../marks/MaskBrush";
import { Where } from "../where/Where";
import { among, brushOn, Chosen } from "./Chosen";
import { Lacking } from "./Lacking";

/** The amount in each of the ways that people say it, and what stands beside what was wished. */
function Amount({ path, entry }: { path: Path; entry: Sowing }) {
  const line = usePage((s) => s.manifest?.sown.find((x) => x.id === entry.id));
  const plot = usePage((s) => s.doc!.plot);
  const area = plot.width_m * plot.depth_m;
  const free = entry.layout === "natural" || entry.layout === "clumped";
  const keep = (v: number) =>
    void edit(`${entry.name}: density`, (d) => {
      put(d, [...path, "density"], Math.min(100000, +v.toPrecision(6)));
      put(d, [...path, "number"], 0);
    });
  const less = line && line.wished > 0 ? line.count / line.wished : null;
  return (
    <div data-amount>
      {free && !entry.number && (
        <>
          <Range
            label="Density"
            value={entry.density}
            unit="per 100 m²"
            min={0}
            max={100000}
            low={0.01}
            high={2000}
            log
            onDrag={(v) => drag((d) => put(d, [...path, "density"], v))}
            onKeep={keep}
          />
          <div className="flex flex-wrap justify-between gap-x-2 text-[12px]">
            <NumberField
              label="Per square metre"
              value={entry.density / 100}
              unit="per m²"
              onKeep={(v) => keep(v * 100)}
            />
            <NumberField
              label="Per hectare"
              value={entry.density * 100}
              unit="per ha"
              onKeep={(v) => keep(v / 100)}
            />
            <NumberField
              label="On the whole plot"
              value={Math.round((entry.density * area) / 100)}
              unit="on the plot"
              onKeep={(v) => keep((v * 100) / area)}
            />
          </div>
        </>
      )}
      {line && (
        <div className="text-[11.5px] text-soft" data-stand>
          <b className="text-ink">{line.count.toLocaleString("en")}</b> stand
          {less !== null && less < 0.995 && (
            <>
              {" "}
              of {line.wished.toLocaleString("en")}:{" "}
              {line.capped &&
                `its least distances leave room for ${shown(line.room ?? 0)} per 100 m² at most; `}
              its rules, clearings and neighbours leave {shown(less * 100)} %
            </>
          )}
        </div>
      )}
    </div>
  );
}

export function Mix({ path, entry }: { path: Path; entry: Sowing }) {
  const total = entry.mix.reduce((a, p) => a + p.share, 0) || 1;
  const cabinet = usePage((s) => s.cabinet)!;
  const kinds = useOffers("planting");
  const line = usePage((s) => s.manifest?.sown.find((x) => x.id === entry.id));
  const schema = usePage((s) => s.catalogue!.scene);
  const painting = usePage((s) => s.chosen === `sown-${entry.id}`);
  const [sought, setSought] = useState("");
  const found = (p: { kind: string }) => among(p, sought);
  const whole = line?.count ?? 0;
  const count = (n: number) => n.toLocaleString("en");
  const standing = (i: number) =>
    line?.counts[i] ?? Math.round((whole * entry.mix[i].share) / total);
  const add = (k: string) =>
    void edit(`${entry.name}: ${k} added`, (d) =>
      at<Sowing>(d, path).mix.push(
        complete(schema, modelOf(schema, "mix"), {
          kind: k,
          share: Math.round(total / entry.mix.length) || 10,
        }),
      ),
    );
  return (
    <div data-mix>
      <Amount path={path} entry={entry} />
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button
          className={`btn ${painting ? "on" : ""}`}
          aria-pressed={painting}
          data-brush-on
          title={
            "Brush it on the ground; what is painted stays, and may be given another " +
            "density or another mix"
          }
          onClick={() => (painting ? set({ chosen: entry.id, tool: null }) : brushOn(entry, path))}
        >
          {painting ? "Done with the brush" : "Brush it on"}
        </button>
        {painting && (
          <span className="text-[11.5px] text-soft">
            paint on face or map; rub out with the other brush
          </span>
        )}
      </div>
      {painting && <MaskBrush />}
      {entry.mix.length > 1 && (
        <Chosen entry={entry} counts={line?.counts ?? []} sought={sought} onSeek={setSought} />
      )}
      {entry.mix.map((p, i) => {
        if (!found(p)) return null;
        const wears = (p.look && p.look !== "season" ? p.look : "") as string;
        const own = [...path, "mix", i];
        const label = cabinet.kinds.find((k) => k.name === p.kind)?.label ?? p.kind;
        return (
          <div key={i} className="mt-1 border-t border-rule/60 pt-[2px]" data-part={p.kind}>
            <div className="flex items-center gap-2">
              <div className="grow">
                <CabinetChoice
                  drawer="kind"
                  value={p.kind}
                  label="Kind"
                  onKeep={(v) =>
                    void edit(`${entry.name}: kind`, (d) => put(d, [...own, "kind"], v))
                  }
                />
              </div>
              {entry.mix.length > 1 && (
                <button
                  className="icon"
                  aria-label={`Remove ${p.kind}`}
                  onClick={() =>
                    void edit(`${entry.name}: one kind less`, (d) =>
                      at<Sowing>(d, path).mix.splice(i, 1),
                    )
                  }
                >
                  <Trash2 size={13} />
                </button>
              )}
            </div>
            <Lacking path={`${own.join(".")}.kind`} />
            {entry.mix.length > 1 && (
              <Range
                label={`Parts · ${count(standing(i))} of ${count(whole)}`}
                value={p.share}
                unit={`of ${shown(total)}`}
                min={0}
                max={100}
                low={0}
                high={100}
                log={false}
                step={1}
                onDrag={(v) => drag((d) => put(d, [...own, "share"], v))}
                onKeep={(v) =>
                  void edit(`${entry.name}: share`, (d) => put(d, [...own, "share"], v))
                }
              />
            )}
            <Fold
              title={`${label} in this mix`}
              note={
                [
                  p.size !== 100 ? `${shown(p.size)} %` : "",
                  p.apart_m ? `${shown(p.apart_m)} m apart` : "",
                  wears,
                  p.where?.length ? `${p.where.length} rule${p.where.length > 1 ? "s" : ""}` : "",
                ]
                  .filter(Boolean)
                  .join(", ") || "as the sowing"
              }
            >
              <Settings
                path={own}
                model={modelOf(schema, "mix")}
                owner={`${entry.name}: ${label}`}
                skip={["share"]}
              />
              <Where path={own} stage="planting" owner={`${entry.name}: ${label}`} />
            </Fold>
          </div>
        );
      })}
      <div className="mt-1">
        <AddMenu
          label="kind to the mix"
          items={kinds.map((k) => ({ key: k.key, label: k.label, group: k.group }))}
          onPick={add}
        />
      </div>
    </div>
  );
}
