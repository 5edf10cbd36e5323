const SIDE = 1024;
const LEVELS = 8;

interface Props {
  /** Where the tiles are, without level, column and row. */
  at: string;
  proof: string;
  /** Pixels a millimetre. */
  zoom: number;
  width: number;
  height: number;
  /** What is in sight, px at the zoom. */
  sight: { left: number; top: number; wide: number; high: number };
}

/** What of a page is in sight, in tiles as sharp as the zoom needs, which the server draws. */
export function Tiles({ at, proof, zoom, width, height, sight }: Props) {
  const longer = Math.max(width, height) * zoom;
  const sharp = Math.log2((longer * (window.devicePixelRatio || 1)) / SIDE);
  const level = Math.min(LEVELS - 1, Math.max(0, Math.ceil(sharp - 0.01)));
  const side = longer / 2 ** level;
  const range = (from: number, to: number, end: number) => {
    const [first, last] = [Math.floor(from / side), Math.ceil(Math.min(to, end) / side - 1e-6) - 1];
    return Array.from({ length: Math.max(0, last - first + 1) }, (_, n) => first + n);
  };
  const columns = range(sight.left, sight.left + sight.wide, width * zoom);
  const rows = range(sight.top, sight.top + sight.high, height * zoom);
  return (
    <>
      {rows.flatMap((row) =>
        columns.map((column) => (
          <img
            key={`${proof} ${level} ${column} ${row}`}
            className="tile"
            alt=""
            src={`${at}/${level}/${column}/${row}.png?key=${encodeURIComponent(proof)}`}
            style={{
              left: column * side,
              top: row * side,
              width: Math.min(side, width * zoom - column * side),
              height: Math.min(side, height * zoom - row * side),
            }}
            onError={(event) => (event.currentTarget.style.display = "none")}
          />
        )),
      )}
    </>
  );
}
