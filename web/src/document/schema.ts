import type { Model, ModelName, Prop, SceneSchema } from "../api/shapes";

type Values = Record<string, unknown>;

/** Marks are models of their own, named after their kind. */
const MARKS: Record<string, ModelName> = { mask: "Mask", line: "Line", area: "Area" };

/** Lists whose entries are of one model. */
const PLAIN: Record<string, ModelName> = {
  ground: "Material",
  "far ground": "Material",
  planting: "Sowing",
  shots: "Shot",
  pieces: "Piece",
  mix: "MixPart",
};

/** The model of a kind, or of a list whose entries have no kind. */
export function modelOf(schema: SceneSchema, list: string, kind?: string): Model {
  const defs = schema.$defs;
  if (PLAIN[list]) return defs[PLAIN[list]];
  if (list === "marks" && kind) return defs[MARKS[kind]];
  const found = Object.values(defs).find(
    (d) =>
      d.properties?.kind?.const === kind &&
      (list === "where" ? d.properties.invert : d.properties.name),
  );
  if (!found) throw new Error(`The server knows no kind “${kind}”. Reload the page.`);
  return found;
}

/** The model that a field holds, where it holds one. */
function innerOf(schema: SceneSchema, prop: Prop): Model | undefined {
  const ref = prop.$ref ?? prop.allOf?.[0]?.$ref;
  const inner = ref && schema.$defs[ref.split("/").pop() as ModelName];
  return inner && inner.properties ? inner : undefined;
}

/**
 * Values for a new entry with the schema's defaults for what they leave out, so that it reads as
 * the core will keep it.
 */
export function complete<T = never>(schema: SceneSchema, model: Model, values: object): T {
  const given = values as Values;
  const out: Values = {};
  for (const [name, prop] of Object.entries(model.properties)) {
    const inner = innerOf(schema, prop);
    if (inner) out[name] = complete(schema, inner, (given[name] ?? {}) as Values);
    else if (name === "where" || name === "mix") {
      const list = (given[name] ?? []) as (Values & { kind: string })[];
      out[name] = list.map((c) => complete(schema, modelOf(schema, name, c.kind), c));
    } else
      out[name] =
        given[name] ?? prop.default ?? prop.const ?? (prop.type === "array" ? [] : undefined);
  }
  return out as T;
}
