import type { Model } from "../../api/shapes";
import * as urls from "../../api/urls";
import { Fold } from "../../controls/Fold";
import { Range } from "../../controls/Range";
import { shown } from "../../document/numbers";
import { asked, Options, type Values, withDefaults } from "../../settings/Options";
import { useKept } from "../../state/kept";
import { usePage } from "../../state/store";
import { PlanFiles } from "../planting/PlanFiles";
import { JobLine } from "./JobLine";
import { type Order, useForecast } from "./useForecast";

/** What is handed over: the grid, the options of every exporter, the files once they are grown. */
export function HandOverPanel() {
  const id = usePage((s) => s.id!);
  return <Panel key={id} id={id} />;
}

/** Its choices are those that were made last for this scene. */
function Panel({ id }: { id: number }) {
  const plot = usePage((s) => s.doc!.plot);
  const exporters = usePage((s) => s.catalogue!.exporters);
  const [posts, setPosts] = useKept<number | null>(`hand over ${id} posts`, null);
  const [files, setFiles] = useKept<Record<string, Values>>(`hand over ${id} files`, {});
  const order: Order = { posts: posts ?? plot.posts, files };
  const revision = usePage((s) => s.state?.revision);
  const pictureOf = (name: string, tick = "") =>
    `${urls.exporterPicture(id, name, tick)}?of=${revision}`;
  const keepPosts = (v: number) => setPosts(Math.round(v));
  return (
    <div>
      <p className="text-soft">Metres, row 0 north.</p>
      <Range
        label="Grid"
        value={order.posts}
        unit="posts"
        min={33}
        max={4097}
        low={129}
        high={4097}
        log
        step={1}
        onDrag={keepPosts}
        onKeep={keepPosts}
      />
      <Forecast order={order} />
      {exporters.map((x) => {
        const model = { properties: {}, ...x.options };
        const asks = Object.keys(model.properties).length > 0;
        return (
          <div key={x.name} className="mt-1 flex items-start gap-2">
            <Glimpse src={x.pictured ? pictureOf(x.name) : ""} />
            <div className="min-w-0 grow">
              {asks ? (
                <Fold
                  title={x.title}
                  note={noteOf(model, withDefaults(model, files[x.name] ?? {}))}
                >
                  <p className="text-[11.5px] text-soft">{x.help}</p>
                  <div data-exporter={x.name}>
                    <Options
                      model={model}
                      values={files[x.name] ?? {}}
                      pictures={Object.fromEntries(
                        (x.ticks ?? []).map((t) => [t, pictureOf(x.name, t)]),
                      )}
                      onChange={(values) => setFiles({ ...files, [x.name]: values })}
                    />
                  </div>
                </Fold>
              ) : (
                <div className="border-t border-rule/70 pt-[2px]" title={x.help}>
                  <b>{x.title}</b> <span className="text-soft">{x.help}</span>
                </div>
              )}
            </div>
          </div>
        );
      })}
      <JobLine scene={id} order={order} />
      <PlanFiles />
      <div className="mt-2 border-t border-rule pt-1">
        <a className="btn" href={urls.sceneFile(id, "scene.zip")} download>
          Scene itself (.zip)
        </a>{" "}
        <span className="text-soft">
          for <code>./sow grow</code>
        </span>
      </div>
    </div>
  );
}

/** A small picture of what an exporter writes of the scene as it is kept. */
function Glimpse({ src }: { src: string }) {
  if (!src) return <span className="w-[48px] shrink-0" />;
  return (
    <img alt="" src={src} className="h-[36px] w-[48px] shrink-0 border border-ink object-cover" />
  );
}

/** The options that are set, in a few words. */
function noteOf(model: Model, values: Values): string {
  if (values.wanted === false) return "not written";
  return asked(model, values)
    .filter(([name]) => name !== "wanted" && values[name] !== false && values[name] !== 0)
    .map(([name, prop]) => {
      const value = values[name];
      const label = (prop.title ?? name).toLowerCase();
      const said = prop.sow?.labels?.[String(value)] ?? `${value} ${prop.sow?.unit ?? ""}`.trim();
      return value === true ? label : `${label} ${said}`;
    })
    .join(", ");
}

function Forecast({ order }: { order: Order }) {
  const plot = usePage((s) => s.doc!.plot);
  const cost = useForecast(order);
  const spacing = Math.max(plot.width_m, plot.depth_m) / (order.posts - 1);
  return (
    <p className="text-[11.5px] text-soft">
      {shown(spacing)} m between posts
      {cost && (
        <span data-forecast={cost.megabytes}>
          {" "}
          · about {shown(cost.megabytes)} MB, {shown(cost.seconds)} s,{" "}
          {cost.plants.toLocaleString("en")} plants, {shown(cost.triangles / 1e6)} M triangles of
          land
        </span>
      )}
    </p>
  );
}
