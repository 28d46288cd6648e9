import { useEffect, useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import { finds, tradeWords } from "../finder/finds";
import { asPage, guide } from "./guide";

/** The user guide: its chapters at the left, found by words; the chapter that is read beside. */
export default function Guide() {
  const wanted = useParams().part ?? guide[0].id;
  const [typed, setTyped] = useState("");
  const found = guide.filter((p) => finds(typed.trim(), `${p.title} ${p.text}`, tradeWords));
  const at = Math.max(
    guide.findIndex((p) => p.id === wanted),
    0,
  );
  const part = guide[at];
  const page = useMemo(() => asPage(part), [part]);
  useEffect(() => {
    document.title = `${part.title}, guide to Eurythm`;
    document.querySelector(".guide article")?.scrollTo(0, 0);
  }, [part]);
  return (
    <main className="guide">
      <nav aria-label="Parts of the guide">
        <Link to="/" className="brand">
          Eurythm
        </Link>
        <input
          className="text-box"
          aria-label="Find in the guide"
          placeholder="Find in the guide"
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        {found.map((p) => (
          <Link
            key={p.id}
            to={`/guide/${p.id}`}
            aria-current={p.id === part.id ? "page" : undefined}
            style={{ paddingLeft: p.depth > 2 ? 22 : 8 }}
          >
            {p.title}
          </Link>
        ))}
        {found.length === 0 && <p className="quiet small">No part of the guide says that.</p>}
      </nav>
      <article tabIndex={-1}>
        <h1>{part.title}</h1>
        {/* biome-ignore lint/security/noDangerouslySetInnerHtml: our own text, built in */}
        <div dangerouslySetInnerHTML={{ __html: page }} />
        {guide[at + 1] && (
          <p>
            <Link to={`/guide/${guide[at + 1].id}`}>Next: {guide[at + 1].title}</Link>
          </p>
        )}
      </article>
    </main>
  );
}
