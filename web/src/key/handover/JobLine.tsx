import * as calls from "../../api/calls";
import * as urls from "../../api/urls";
import { get, set, usePage } from "../../state/store";
import { tell } from "../../state/trouble";
import type { Order } from "./useForecast";

/** The button that grows the files, how far it is, and where they are then. */
export function JobLine({ scene, order }: { scene: number; order: Order }) {
  const job = usePage((s) => s.job);
  const running = job?.state === "running" || job?.state === "waiting";
  const grow = () =>
    void calls
      .startHandOver(scene, order)
      .then((begun) => get().job?.id !== begun.id && set({ job: begun })) // else more is known
      .catch(tell);
  return (
    <>
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <button className="btn do" disabled={running} data-grow onClick={grow}>
          Grow files
        </button>
        {running && (
          <>
            <span className="text-soft">{job.step}…</span>
            <button className="btn" onClick={() => void calls.stopHandOver(job.id)}>
              stop
            </button>
          </>
        )}
        {job?.state === "done" && (
          <a className="btn" href={urls.handOverFiles(job.id)} download data-files>
            Download files (.zip)
          </a>
        )}
        {job?.state === "failed" && <span className="text-rust">{job.problem?.detail}</span>}
        {job?.state === "stopped" && <span className="text-soft">stopped</span>}
      </div>
      {job?.state === "done" && job.report ? (
        <Report report={job.report as unknown as Grown} />
      ) : null}
    </>
  );
}

interface Grown {
  grid: number[];
  plants_total: number;
  seconds_total: number;
}

function Report({ report }: { report: Grown }) {
  return (
    <p className="mt-1 text-[11.5px] text-soft">
      {report.grid.join(" × ")} posts, {report.plants_total.toLocaleString("en")} plants,{" "}
      {report.seconds_total} s
    </p>
  );
}
