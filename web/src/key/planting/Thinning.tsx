import { Fold } from "../../controls/Fold";
import { Range } from "../../controls/Range";
import { shown } from "../../document/numbers";
import { Settings } from "../../settings/Settings";
import { engine } from "../../state/engine";
import { set, usePage } from "../../state/store";

function Meter({
  label,
  value,
  most,
  unit,
}: {
  label: string;
  value: number;
  most: number;
  unit: string;
}) {
  const share = most ? value / most : 0;
  return (
    <div className="mt-1" data-meter={label}>
      <div className="flex justify-between">
        <span>{label}</span>
        <span className={share > 1 ? "text-rust" : ""}>
          <b>{value >= 1000 ? Math.round(value).toLocaleString("en") : shown(value)}</b> of{" "}
          {most.toLocaleString("en")} {unit}
          {share > 1 ? `: ${shown((share - 1) * 100)} % over` : ""}
        </span>
      </div>
      <div className="h-[6px] border border-ink">
        <i
          className={`block h-full ${share > 1 ? "bg-rust" : share > 0.85 ? "bg-gold" : "bg-moss"}`}
          style={{ width: `${Math.min(100, share * 100)}%` }}
        />
      </div>
    </div>
  );
}

export function Thinning() {
  const m = usePage((s) => s.manifest);
  const budget = usePage((s) => s.doc!.budget);
  const schema = usePage((s) => s.catalogue!.scene);
  const thinned = usePage((s) => s.thinned);
  const pieces = usePage((s) => s.doc!.pieces.length);
  usePage((s) => s.frames); // what is drawn is told anew with every frame at rest
  const v = engine.view;
  const plants = (m?.cost.plants ?? 0) + pieces;
  const megabytes = m?.cost.plant_megabytes ?? 0;
  const draw = thinned.budget ?? v?.quality.budget ?? 6500;
  const keep = (t: typeof thinned) => {
    set({ thinned: t });
    engine.view?.thin(t.budget, t.proxies);
  };
  return (
    <Fold
      title="Budget and view"
      note={
        `${plants.toLocaleString("en")} held, ` +
        `${(v?.plantsDrawn ?? 0).toLocaleString("en")} drawn`
      }
    >
      <Meter label="Plants and stones" value={plants} most={budget?.plants ?? 0} unit="" />
      <Meter label="Memory" value={megabytes} most={budget?.megabytes ?? 0} unit="MB" />
      <Fold title="What it may cost">
        <Settings path={["budget"]} model={schema.$defs.Budget} owner="Budget" />
      </Fold>
      <Range
        label="Drawn at once, at most"
        value={draw}
        unit=""
        min={100}
        max={400000}
        low={100}
        high={400000}
        log
        step={100}
        onDrag={(b) => set({ thinned: { ...thinned, budget: Math.round(b) } })}
        onKeep={(b) => keep({ ...thinned, budget: Math.round(b) })}
        help="Of the view alone; stills and files hold every one."
      />
      <label className="mt-1 flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-moss"
          data-proxies
          checked={thinned.proxies}
          onChange={(e) => keep({ ...thinned, proxies: e.target.checked })}
        />
        cards only (J)
      </label>
      <p className="text-[11.5px] text-soft" data-drawn>
        {(v?.plantsDrawn ?? 0).toLocaleString("en")} drawn with{" "}
        {(v?.trianglesDrawn ?? 0).toLocaleString("en")} triangles. Stills and files hold all.
      </p>
    </Fold>
  );
}
