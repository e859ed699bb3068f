import type { ComponentType } from "react";
import type { Prop } from "../api/shapes";
import type { ListName } from "../document/lists";
import { CabinetChoice } from "./CabinetChoice";
import { ContourLines } from "./ContourLines";
import { CurveSetting } from "./CurveSetting";
import { FileLine } from "./FileLine";
import { CardLine, LutLine, PanoramaLine, ReferenceLine } from "./PictureChoice";
import { PictureLine, TextureLine } from "./TextureLine";
import { EntryChoice, EntryTicks, MarkChoice, SurfaceChoice } from "./choices";
import { Amount, Buttons, Choices, Colour, Switch, Told } from "./plainWidgets";
import type { WidgetProps } from "./widget";

type Widget = ComponentType<WidgetProps>;

interface Row {
  takes: (prop: Prop) => boolean;
  widget: Widget | null;
}

const MANY = 4; // more choices than these stand in a list

const row = <T,>(takes: (prop: Prop) => boolean, widget: ComponentType<WidgetProps<T>>): Row => ({
  takes,
  widget: widget as unknown as Widget,
});

/** The widget of a field: the first row that takes it. A field that none takes is not shown. */
const WIDGETS: Row[] = [
  row((p) => p.sow?.file === "panorama", PanoramaLine),
  row((p) => p.sow?.file === "card", CardLine),
  row((p) => p.sow?.file === "lut", LutLine),
  row((p) => p.sow?.file === "reference", ReferenceLine),
  row((p) => !!p.sow?.colour, Colour),
  row(
    (p) => !!p.sow?.curve,
    ({ path, name, label, prop, owner }: WidgetProps) => (
      <CurveSetting
        path={path}
        name={name}
        label={label}
        axes={prop.sow!.curve!}
        owner={owner}
        help={prop.description}
      />
    ),
  ),
  row((p) => !!p.sow?.told, Told),
  row(
    (p) => !!p.sow?.entry,
    ({ prop, label, value, onKeep, path }: WidgetProps<string>) => (
      <EntryChoice
        list={prop.sow!.entry!}
        far={!!prop.sow!.far}
        label={label}
        value={value}
        none={prop.sow!.none}
        onKeep={onKeep}
        help={prop.description}
        path={path}
      />
    ),
  ),
  row(
    (p) => !!p.sow?.surface,
    ({ path, label, value, onKeep }: WidgetProps<string>) => (
      <SurfaceChoice path={path} label={label} value={value} onKeep={onKeep} />
    ),
  ),
  row(
    (p) => !!p.sow?.contours,
    ({ path, owner }: WidgetProps) => <ContourLines path={path} owner={owner} />,
  ),
  row(
    (p) => !!p.sow?.drawer,
    ({ prop, value, label, onKeep }: WidgetProps<string>) => (
      <CabinetChoice drawer={prop.sow!.drawer!} value={value} label={label} onKeep={onKeep} />
    ),
  ),
  row(
    (p) => !!p.sow?.mark,
    ({ prop, value, onKeep }: WidgetProps<string>) => (
      <MarkChoice kind={prop.sow!.mark!} value={value} onKeep={onKeep} />
    ),
  ),
  row(
    (p) => !!p.sow?.entries,
    ({ prop, label, value, onKeep }: WidgetProps<string[]>) => (
      <EntryTicks
        list={prop.sow!.entries as ListName}
        label={label}
        value={value ?? []}
        onKeep={onKeep}
      />
    ),
  ),
  { takes: (p) => !!p.sow?.points, widget: null },
  row(
    (p) => !!p.sow?.picture,
    ({ path, name, value, label, prop }: WidgetProps<string>) => (
      <PictureLine path={[...path, name]} value={value} label={label} help={prop.description} />
    ),
  ),
  row(
    (p) => !!p.sow?.texture,
    ({ path, name, value, label }: WidgetProps<string>) => (
      <TextureLine path={[...path, name]} value={value} label={label} />
    ),
  ),
  row(
    (p) => !!p.sow?.file,
    ({ path, name, value, label, prop }: WidgetProps<string>) => (
      <FileLine path={[...path, name]} value={value} label={label} help={prop.description} />
    ),
  ),
  row((p) => !!p.sow?.choices || (p.enum?.length ?? 0) > MANY, Choices),
  row((p) => !!p.enum, Buttons),
  row((p) => p.type === "boolean", Switch),
  row((p) => p.type === "number" || p.type === "integer", Amount),
];

/** The widget that shows a field, or none. */
export const widgetOf = (prop: Prop): Widget | null =>
  WIDGETS.find((w) => w.takes(prop))?.widget ?? null;
