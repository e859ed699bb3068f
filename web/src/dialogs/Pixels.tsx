/** A whole number that is typed, within its limits. */
export function Pixels({
  label,
  value,
  least,
  most,
  keep,
}: {
  label: string;
  value: number;
  least: number;
  most: number;
  keep: (value: number) => void;
}) {
  return (
    <input
      className="text w-[72px]"
      type="number"
      aria-label={label}
      min={least}
      max={most}
      value={value}
      onChange={(e) => keep(Math.min(most, Math.max(1, Math.round(+e.target.value))))}
    />
  );
}
