interface Named {
  id: string;
  name: string;
}

/** One of a scene's shots; `before` and `after` are choices that are no shot, by their values. */
export function ShotChoice({
  label,
  shots,
  value,
  choose,
  before = {},
  after = {},
  className = "text",
}: {
  label: string;
  shots: Named[];
  value: string;
  choose: (id: string) => void;
  before?: Record<string, string>;
  after?: Record<string, string>;
  className?: string;
}) {
  const options = [
    ...Object.entries(before),
    ...shots.map((s) => [s.id, s.name] as const),
    ...Object.entries(after),
  ];
  return (
    <select
      className={className}
      aria-label={label}
      value={value}
      onChange={(e) => choose(e.target.value)}
    >
      {options.map(([id, name]) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}
