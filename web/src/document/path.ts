export type Path = (string | number)[];

type Node = Record<string | number, unknown>;

/** The value at a path of a document; the caller says what it is. */
export function at<T = unknown>(doc: unknown, path: Path): T {
  return path.reduce<unknown>((v, k) => (v as Node | null | undefined)?.[k], doc) as T;
}

/** Puts a value at a path of a document. */
export function put(doc: unknown, path: Path, value: unknown) {
  at<Node>(doc, path.slice(0, -1))[path[path.length - 1]] = value;
}
