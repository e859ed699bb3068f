/** The API, typed from its OpenAPI description. */
import type { Problem } from "./shapes";

/** An error told in plain words. `lost` means that the server was not reached. */
export class Trouble extends Error {
  constructor(
    readonly problem: Problem,
    readonly lost = false,
  ) {
    super(problem.detail);
  }
}

async function send(
  method: string,
  path: string,
  body?: unknown,
  headers: Record<string, string> = {},
  signal?: AbortSignal,
): Promise<Response> {
  let answer: Response;
  try {
    const raw = body instanceof Blob || body instanceof FormData || body === undefined;
    const kind = body instanceof Blob ? "application/octet-stream" : "application/json";
    const sent: Record<string, string> =
      body instanceof FormData || body === undefined ? {} : { "Content-Type": kind };
    answer = await fetch(path, {
      method,
      signal,
      headers: { ...sent, ...headers },
      body: raw ? (body as Blob | FormData | undefined) : JSON.stringify(body),
    });
  } catch (e) {
    if ((e as Error).name === "AbortError") throw e;
    throw new Trouble(
      {
        type: "about:blank",
        title: "Lost touch with the server",
        status: 0,
        detail: "The server does not answer. Nothing that was kept is lost.",
        path: "",
        advice: "Run ./sow start; the page goes on by itself.",
      },
      true,
    );
  }
  if (!answer.ok) {
    const text = await answer.text();
    let problem: Problem;
    try {
      problem = JSON.parse(text);
    } catch {
      problem = {
        type: "about:blank",
        title: "Trouble",
        status: answer.status,
        detail: text.slice(0, 200),
        path: "",
        advice: "",
      };
    }
    throw new Trouble(problem, answer.status === 503);
  }
  return answer;
}

export async function ask<T>(
  method: string,
  path: string,
  body?: unknown,
  headers?: Record<string, string>,
  signal?: AbortSignal,
): Promise<T> {
  return (await send(method, path, body, headers, signal)).json();
}

/** Sends files as a form, each under `auto`. */
export async function sendFiles<T>(path: string, files: File[]): Promise<T> {
  const form = new FormData();
  for (const f of files) form.append("auto", f, f.name);
  return (await send("POST", path, form)).json();
}

export async function bytesOf(path: string): Promise<ArrayBuffer> {
  return (await send("GET", path)).arrayBuffer();
}

/** The raw answer to an order, as numbers of a field or the heights under a stroke. */
export async function answerOf(path: string, body: unknown): Promise<ArrayBuffer> {
  return (await send("POST", path, body)).arrayBuffer();
}

/** The answer as a file's content, as of a picture or a drawing. */
export async function fileOf(path: string, body: unknown, signal?: AbortSignal): Promise<Blob> {
  return (await send("POST", path, body, {}, signal)).blob();
}

export function saveFile(blob: Blob, name: string) {
  const a = document.createElement("a");
  a.href = URL.createObjectURL(blob);
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 60000);
}
