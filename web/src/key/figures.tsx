import * as urls from "../api/urls";
import { shown } from "../document/numbers";
import { usePage } from "../state/store";

export function Relief() {
  const m = usePage((s) => s.manifest);
  return <>{m ? `relief ${shown(m.highest - m.lowest)} m` : "…"}</>;
}

export function Wet() {
  const m = usePage((s) => s.manifest);
  const n = usePage((s) => s.doc!.water.filter((w) => w.on).length);
  const plot = usePage((s) => s.doc!.plot);
  const wet = m?.water.reduce((a, w) => a + w.wet_m2, 0) ?? 0;
  return <>{n ? `${shown((100 * wet) / plot.width_m / plot.depth_m)} % under water` : "dry"}</>;
}

export function Cover() {
  const m = usePage((s) => s.manifest);
  const ground = usePage((s) => s.doc!.ground);
  if (!ground.length) return <>bare</>;
  return (
    <span className="inline-flex h-[9px] w-[140px] border border-ink align-middle">
      {ground.map((g) => (
        <i
          key={g.id}
          title={`${g.name} ${Math.round((m?.shares[g.id] ?? 0) * 100)} %`}
          style={{
            flex: m?.shares[g.id] ?? 0,
            background: `url(${urls.drawerPicture("grounds", g.ground)}) center / 60px`,
          }}
        />
      ))}
    </span>
  );
}

export function PlantCount() {
  const m = usePage((s) => s.manifest);
  const n = usePage((s) => s.doc!.pieces.length);
  return <>{m ? `${(m.cost.plants + n).toLocaleString("en")} plants and stones` : "…"}</>;
}

export function SunFigure() {
  const l = usePage((s) => s.doc!.light);
  const sun = usePage((s) => s.sun);
  const height = l.sun_by === "date" ? (sun?.height ?? 0) : l.sun_height;
  const bearing = l.sun_by === "date" ? (sun?.bearing ?? 0) : l.sun_bearing;
  const points = [
    "N",
    "NNE",
    "NE",
    "ENE",
    "E",
    "ESE",
    "SE",
    "SSE",
    "S",
    "SSW",
    "SW",
    "WSW",
    "W",
    "WNW",
    "NW",
    "NNW",
  ];
  return (
    <>
      {l.body} {shown(Math.round(height * 10) / 10)}° from {points[Math.round(bearing / 22.5) % 16]}
    </>
  );
}

export function HandFigure() {
  const m = usePage((s) => s.manifest);
  return <>{m ? `about ${shown(m.cost.full_megabytes)} MB` : "…"}</>;
}
