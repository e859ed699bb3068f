/**
 * The live channel, one for all tabs of this browser: the tab that holds the lock listens to the
 * server and passes on what it hears; when it is closed, the next one takes its place.
 */
import * as urls from "../api/urls";

export interface Heard {
  event: "hello" | "progress" | "job" | "revision" | "still";
  /** `hello`, with nothing in it, is heard whenever the channel opens: what was missed is asked for. */
  data: { scene?: number; [name: string]: unknown };
}

const EVENTS: Heard["event"][] = ["hello", "progress", "job", "revision", "still"];

/** Begins to listen; gives what to call when nothing more is to be heard. */
export function listenLive(hear: (heard: Heard) => void): void {
  const tabs = new BroadcastChannel("sow-live");
  tabs.onmessage = (e: MessageEvent<Heard>) => hear(e.data);
  const open = () => {
    const source = new EventSource(urls.events);
    for (const event of EVENTS)
      source.addEventListener(event, (e) => {
        const heard = { event, data: JSON.parse((e as MessageEvent).data) } as Heard;
        hear(heard);
        tabs.postMessage(heard);
      });
  };
  // without locks (a page that is not from this machine nor ciphered) each tab listens for itself
  if (!navigator.locks) open();
  else
    void navigator.locks.request("sow-live", () => {
      open();
      return new Promise(() => {}); // held until this tab is closed
    });
}
