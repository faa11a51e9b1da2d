/** A stretch of a text with the words in it that were looked for: every second piece. */
export function Excerpt({ pieces }: { pieces: string[] }) {
  return (
    <p className="font-read text-work leading-snug text-soft">
      {pieces.map((piece, place) =>
        place % 2 ? (
          <mark key={place} className="bg-this-wash font-semibold text-ink">
            {piece}
          </mark>
        ) : (
          <span key={place}>{piece}</span>
        ),
      )}
    </p>
  );
}
