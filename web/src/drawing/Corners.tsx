import type { Region } from "../api/client";
import { readLength } from "../api/queries";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

const figure = new Intl.NumberFormat("en", { maximumFractionDigits: 6, useGrouping: false });

interface Props {
  /** In the drawing's units, counted from its local origin. */
  region: Region;
  origin: readonly [number, number];
  /** Millimetres of a unit. */
  unit: number;
  unitName: string;
  onChange: (region: Region) => void;
}

/** The two corners of an area, typed in the drawing's own coordinates and unit; a length with another unit is taken as such. */
export function Corners({ region, origin, unit, unitName, onChange }: Props) {
  const words = (x: number, y: number) => `${figure.format(x + origin[0])}, ${figure.format(y + origin[1])}`;
  const number = async (text: string) => (/^[-+]?(\d+\.?\d*|\.\d+)$/.test(text) ? Number(text) : (await readLength(text)).mm / unit);
  const read = async (text: string) => {
    const parts = text.split(/[,;]/).map((part) => part.trim());
    if (parts.length !== 2) throw new Error(texts.isNotACornerWrite(text, unitName));
    const [x, y] = await Promise.all(parts.map(number));
    return `${figure.format(x!)}, ${figure.format(y!)}`;
  };
  const take = (text: string, which: 0 | 2) => {
    const [x, y] = text.split(",").map(Number) as [number, number];
    const corner = [x - origin[0], y - origin[1]] as const;
    const other = which === 0 ? [region[2], region[3]] : [region[0], region[1]];
    onChange([Math.min(corner[0], other[0]!), Math.min(corner[1], other[1]!), Math.max(corner[0], other[0]!), Math.max(corner[1], other[1]!)]);
  };
  return (
    <>
      <Fact name={texts.lowerLeft}>
        <TypedField label={texts.lowerLeftCorner} value={words(region[0], region[1])} read={read} onChange={(text) => take(text, 0)} suffix={unitName} />
      </Fact>
      <Fact name={texts.upperRight}>
        <TypedField label={texts.upperRightCorner} value={words(region[2], region[3])} read={read} onChange={(text) => take(text, 2)} suffix={unitName} />
      </Fact>
    </>
  );
}
