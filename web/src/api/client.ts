/** The API, typed from its OpenAPI description: path, body and answer of every route. */
import createClient from "openapi-fetch";
import type { Problem } from "./shapes";
import type { paths as Orders } from "./orders";
import type { paths as Answers } from "./types";

/** Every path: in what is asked a field with a default may be left out, in an answer it is there. */
type Asked<P extends keyof Answers> = {
  [V in keyof Answers[P]]: V extends keyof Orders[P] & "post"
    ? Omit<Answers[P][V], "requestBody"> & Pick<Orders[P][V], "requestBody" & keyof Orders[P][V]>
    : Answers[P][V];
};
type paths = { [P in keyof Answers]: Asked<P> };

/** An error told in plain words. `lost` means that the server was not reached. */
export class Trouble extends Error {
  constructor(
    readonly problem: Problem,
    readonly lost = false,
  ) {
    super(problem.detail);
  }
}

const LOST: Problem = {
  type: "about:blank",
  title: "Lost touch with the server",
  status: 0,
  detail: "The server does not answer. Nothing that was kept is lost.",
  path: "",
  advice: "Run ./sow start; the page goes on by itself.",
};

async function reached(request: Request): Promise<Response> {
  try {
    return await fetch(request);
  } catch (e) {
    if ((e as Error).name === "AbortError") throw e;
    throw new Trouble(LOST, true);
  }
}

export const api = createClient<paths>({ fetch: reached });

interface Told<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The answer to what was asked. Throws Trouble where the server tells of a problem. */
export async function told<T>(asked: Promise<Told<T>>): Promise<T> {
  const { data, error, response } = await asked;
  if (!response.ok) throw new Trouble(problemOf(error, response.status), response.status === 503);
  return data as T;
}

function problemOf(error: unknown, status: number): Problem {
  if (typeof error === "object" && error !== null && "detail" in error) return error as Problem;
  return {
    type: "about:blank",
    title: "Trouble",
    status,
    detail: String(error ?? "").slice(0, 200),
    path: "",
    advice: "",
  };
}

type Answered<T> = T extends {
  responses: { 200: { content: { "application/json": infer A } } };
}
  ? A
  : unknown;
type Ordered<T> = T extends { requestBody?: { content: { "application/json": infer B } } }
  ? B
  : never;

/** What a path takes that is asked with POST. */
export type Body<P extends keyof paths> = Ordered<paths[P]["post"]>;

type OfScene = keyof paths & `/api/scenes/{scene}/${string}`;

/** What asks a path of a scene with POST, by the scene's number and what the path takes. */
export const onScene =
  <P extends OfScene>(path: P) =>
  (scene: number, body: Body<P>, signal?: AbortSignal) =>
    told(
      api.POST(path as never, { params: { path: { scene } }, body, signal } as never),
    ) as Promise<Answered<paths[P]["post"]>>;

/** The same where the answer is a picture. */
export const pictureOf =
  <P extends OfScene>(path: P) =>
  (scene: number, body: Body<P>, signal?: AbortSignal) =>
    told(
      api.POST(
        path as never,
        { params: { path: { scene } }, body, parseAs: "blob", signal } as never,
      ),
    ) as Promise<Blob>;

/** Sends files to a path as they are, which the description cannot say. */
export async function upload<P extends keyof paths>(
  path: P,
  place: Record<string, string | number>,
  sent: File | FormData,
  query: Record<string, string> = {},
): Promise<Answered<paths[P]["post"]>> {
  const at = path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(place[name]));
  const asked = new URLSearchParams(query).toString();
  const headers: Record<string, string> =
    sent instanceof File
      ? {
          "X-Name": encodeURIComponent(sent.name).slice(0, 180),
          "Content-Type": "application/octet-stream",
        }
      : {};
  const url = new URL(at + (asked && `?${asked}`), location.origin);
  const response = await reached(new Request(url, { method: "POST", headers, body: sent }));
  const text = await response.text();
  if (response.ok) return JSON.parse(text);
  return told(Promise.resolve({ error: parsed(text), response }));
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}

/** Files as a form, each under `auto`. */
export function formOf(files: File[]): FormData {
  const form = new FormData();
  for (const f of files) form.append("auto", f, f.name);
  return form;
}

export function saveFile(blob: Blob, name: string) {
  const a = document.createElement("a");
  a.href = URL.createObjectURL(blob);
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 60000);
}
