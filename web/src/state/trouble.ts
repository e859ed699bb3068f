import { Trouble } from "../api/client";
import { set } from "./store";

export function tell(e: unknown) {
  if (e instanceof Trouble) {
    if (e.problem.title === "Stopped") return;
    set(e.lost ? { lost: true, trouble: e.problem } : { trouble: e.problem });
  } else if ((e as Error)?.name !== "AbortError") {
    console.error(e);
    set({
      trouble: {
        type: "about:blank",
        title: "Trouble in the page",
        status: 0,
        detail: String((e as Error)?.message ?? e),
        path: "",
        advice: "Nothing that was kept is lost; reload the page.",
      },
    });
  }
}
