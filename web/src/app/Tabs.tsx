/** Pages one of which is shown, by their names in a row. */
export function Tabs<T extends string>({
  label,
  pages,
  page,
  onPage,
}: {
  label: string;
  pages: readonly (readonly [T, string])[];
  page: T;
  onPage: (page: T) => void;
}) {
  return (
    <div className="drawer-pages" role="tablist" aria-label={label}>
      {pages.map(([id, name]) => (
        <button
          key={id}
          type="button"
          role="tab"
          aria-selected={page === id}
          className={`plain ${page === id ? "chosen" : "quiet"}`}
          onClick={() => onPage(id)}
        >
          {name}
        </button>
      ))}
    </div>
  );
}
