import { action } from "../actions/commands";

/** A tool of a section: the id of its command, and the word on its button. */
export type Tool = [id: string, word: string];

/** The tools that judge or replace a whole section, under a word that says what they are for. */
export function SectionTools({ label, tools }: { label: string; tools: Tool[] }) {
  return (
    <div className="mt-1 flex flex-wrap items-center gap-1" role="group" aria-label={label}>
      <span className="w-[44px] text-[11.5px] text-soft">{label}</span>
      {tools.map(([id, word]) => {
        const a = action(id);
        const Icon = a.icon!;
        return (
          <button
            key={id}
            className="btn px-[5px]!"
            aria-label={a.name}
            title={`${a.name} (${a.keys})`}
            data-action={id}
            onClick={a.run}
          >
            <Icon size={12} />
            {word}
          </button>
        );
      })}
    </div>
  );
}
