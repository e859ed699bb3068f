import { useRef, useState } from "react";
import { chooseFiles, watch } from "../actions/watchFiles";
import * as calls from "../api/calls";
import type { Material, TextureAnswer } from "../api/shapes";
import { Labelled } from "../controls/Labelled";
import { at, type Path } from "../document/path";
import { edit } from "../state/edits";
import { get } from "../state/store";
import { tell } from "../state/trouble";

/** Sends a set and gives it to the material. */
async function bring(
  list: File[],
  mend: boolean,
  path: Path,
  word = "texture",
): Promise<TextureAnswer | null> {
  try {
    const data = await calls.readTexture(list, mend);
    await edit(`${at<Material>(get().doc, path.slice(0, -1)).name}: ${word} ${data.name}`, (d) => {
      at<Material>(d, path.slice(0, -1)).texture = data.texture;
    });
    return data;
  } catch (e) {
    tell(e);
    return null;
  }
}

/**
 * A texture set brought in for a material: pictures of colour, height, normal, roughness or packed,
 * told apart by their names.
 */
export function TextureLine({ path, value, label }: { path: Path; value: string; label: string }) {
  const input = useRef<HTMLInputElement>(null);
  const files = useRef<File[]>([]);
  const [kept, setKept] = useState<TextureAnswer | null>(null);
  const send = async (list: File[], mend: boolean) => {
    if (!list.length) return;
    const found = await bring(list, mend, path);
    if (found) {
      files.current = list;
      setKept(found);
    }
  };
  const choose = async () => {
    const found = await chooseFiles(true);
    if (!found) {
      input.current?.click();
      return;
    }
    if (!found.files.length) return;
    await send(found.files, false);
    const id = at<Material>(get().doc, path.slice(0, -1)).id as string;
    watch(`texture ${id}`, found.files, found.handles, async (list) => {
      const index = get().doc?.ground.findIndex((m) => m.id === id) ?? -1;
      return index >= 0 && !!(await bring(list, false, ["ground", index, "texture"], "read again"));
    });
  };
  return (
    <div data-texture>
      <Labelled
        label={label}
        help={
          "Pictures of one set, chosen together or dropped here; which is which is " +
          "read from their names. Saved again outside, they are read again."
        }
      >
        <span className="flex items-center gap-2">
          {value ? (
            <button
              className="text-soft underline"
              onClick={() =>
                void edit("Own texture taken away", (d) => {
                  at<Material>(d, path.slice(0, -1)).texture = "";
                })
              }
            >
              take away
            </button>
          ) : (
            <span className="text-soft">none</span>
          )}
          <button
            className="btn"
            data-bring-texture
            onClick={() => void choose()}
            onDragOver={(e) => e.preventDefault()}
            onDrop={(e) => {
              e.preventDefault();
              e.stopPropagation();
              void send([...e.dataTransfer.files], false);
            }}
          >
            {value ? "Replace…" : "Bring in…"}
          </button>
        </span>
      </Labelled>
      <input
        ref={input}
        type="file"
        multiple
        accept="image/png,image/jpeg,image/webp,image/tiff"
        className="hidden"
        data-texture-files
        onChange={(e) => {
          void send([...(e.target.files ?? [])], false);
          e.target.value = "";
        }}
      />
      {kept && value === kept.texture && (
        <p className="text-[11.5px] text-soft">
          {kept.name}
          {kept.told.length ? `: ${kept.told.join("; ")}` : ""}
          {kept.seam > 1.6 && (
            <>
              {" "}
              <span className="text-rust">Its edges do not meet.</span>{" "}
              <button className="underline" onClick={() => void send(files.current, true)}>
                Make them meet
              </button>
            </>
          )}
        </p>
      )}
    </div>
  );
}

/** A picture of the whole ground, laid exactly over the plot or one landform. */
export function PictureLine({
  path,
  value,
  label,
  help,
}: {
  path: Path;
  value: string;
  label: string;
  help?: string;
}) {
  const input = useRef<HTMLInputElement>(null);
  const send = async (list: File[]) => {
    if (!list.length) return;
    const form = new FormData();
    for (const f of list) form.append("auto", f, f.name);
    try {
      const data = await calls.readGroundPicture(form);
      await edit(
        `${at<Material>(get().doc, path.slice(0, -1)).name}: picture ${list[0].name}`,
        (d) => {
          at<Material>(d, path.slice(0, -1)).picture = data.picture;
        },
      );
    } catch (e) {
      tell(e);
    }
  };
  return (
    <Labelled label={label} help={help}>
      <span className="flex items-center gap-2">
        {value ? (
          <button
            className="text-soft underline"
            onClick={() =>
              void edit("Picture taken away", (d) => {
                Object.assign(at<Material>(d, path.slice(0, -1)), { picture: "", over: "" });
              })
            }
          >
            take away
          </button>
        ) : (
          <span className="text-soft">none</span>
        )}
        <button
          className="btn"
          onClick={() => input.current?.click()}
          onDragOver={(e) => e.preventDefault()}
          onDrop={(e) => {
            e.preventDefault();
            e.stopPropagation();
            void send([...e.dataTransfer.files]);
          }}
        >
          {value ? "Replace…" : "Lay…"}
        </button>
      </span>
      <input
        ref={input}
        type="file"
        multiple
        accept="image/png,image/jpeg,image/webp,image/tiff"
        className="hidden"
        data-picture-file
        onChange={(e) => {
          void send([...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
    </Labelled>
  );
}
