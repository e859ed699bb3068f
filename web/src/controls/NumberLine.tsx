import { NumberField } from "./NumberField";

/** A number that is typed, on a line with its label. */
export function NumberLine({
  label,
  value,
  unit,
  onKeep,
}: {
  label: string;
  value: number;
  unit: string;
  onKeep: (v: number) => void;
}) {
  return (
    <div className="flex items-center justify-between">
      <span>{label}</span>
      <NumberField label={label} value={value} unit={unit} onKeep={onKeep} />
    </div>
  );
}
