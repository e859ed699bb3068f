import * as urls from "../../api/urls";
import { usePage } from "../../state/store";

/** The plan and the schedule, taken out as files. */
export function PlanFiles() {
  const id = usePage((s) => s.id);
  return (
    <div className="mt-2 border-t border-rule pt-1">
      <div className="text-soft">Planting plan and schedule of kinds</div>
      <div className="mt-1 flex flex-wrap gap-1">
        <a className="btn" href={urls.sceneFile(id!, "plan.svg")} download data-plan-svg>
          Plan (SVG)
        </a>
        <a className="btn" href={urls.sceneFile(id!, "plan.pdf")} download>
          Plan (PDF)
        </a>
        <a className="btn" href={urls.sceneFile(id!, "schedule.csv")} download>
          Schedule (CSV)
        </a>
      </div>
    </div>
  );
}
