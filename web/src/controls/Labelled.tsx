export function Labelled({
  label,
  help,
  children,
}: {
  label: string;
  help?: string;
  children: React.ReactNode;
}) {
  return (
    <div className="mt-[5px] flex items-center justify-between gap-2" title={help}>
      <span>{label}</span>
      {children}
    </div>
  );
}
