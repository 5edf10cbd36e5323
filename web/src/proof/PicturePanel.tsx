import { Button, Segmented } from "antd";
import { useState } from "react";
import { useMakePicture, usePictureSize, type PictureWish } from "../api/looks";
import { Fact, Note } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";

const readSize = async (text: string) => {
  if (!text.trim() || text.trim() === "by resolution") return "by resolution";
  const found = /^(\d+)\s*[x×]\s*(\d+)$/i.exec(text.trim());
  if (!found) throw new Error(`“${text}” is no size: write pixels across and down, such as 1920 x 1080.`);
  return `${found[1]} × ${found[2]}`;
};

/** The file as pixels, its size told before it is made. */
export function PicturePanel({ job, sheet, sheets }: { job: number; sheet: string; sheets: number }) {
  const [whole, setWhole] = useState(false);
  const [wish, setWish] = useState<PictureWish>({ kind: "png", dpi: 300, pixels: null, colour: "colour", quality: 90 });
  const { data: size, error } = usePictureSize(job, sheet, wish);
  const make = useMakePicture(job, sheet);
  const set = (fields: Partial<PictureWish>) => setWish({ ...wish, ...fields });
  return (
    <>
      <Fact name="As">
        <Segmented size="small" aria-label="Kind of picture" value={wish.kind} options={[{ value: "png", label: "PNG" }, { value: "jpeg", label: "JPEG" }, { value: "tiff", label: "TIFF" }]} onChange={(kind) => set({ kind: kind as PictureWish["kind"], ...(kind === "jpeg" && wish.colour === "black" ? { colour: "grey" as const } : {}) })} />
      </Fact>
      <Fact name="Resolution">
        <TypedField
          label="Resolution of the picture"
          value={String(wish.dpi)}
          suffix="dpi"
          read={async (text) => {
            const dpi = Math.round(Number(text.replace(/dpi/i, "")));
            if (!(dpi >= 10 && dpi <= 2400)) throw new Error("Write 10 to 2400 dots per inch.");
            return String(dpi);
          }}
          onChange={(text) => set({ dpi: Number(text), pixels: null })}
        />
      </Fact>
      <Fact name="Exactly">
        <TypedField
          label="Exact size in pixels"
          value={wish.pixels ? wish.pixels.join(" × ") : "by resolution"}
          read={readSize}
          onChange={(text) => {
            const [across, down] = text.split(" × ").map(Number);
            set({ pixels: text === "by resolution" ? null : [across as number, down as number] });
          }}
        />
      </Fact>
      <Fact name="Colours">
        <Segmented size="small" aria-label="Colours of the picture" value={wish.colour} options={[{ value: "colour", label: "all" }, { value: "grey", label: "greys" }, ...(wish.kind === "jpeg" ? [] : [{ value: "black", label: "1 bit" }])]} onChange={(colour) => set({ colour: colour as PictureWish["colour"] })} />
      </Fact>
      {wish.kind === "jpeg" && (
        <Fact name="Quality">
          <TypedField
            label="Quality of the picture"
            value={String(wish.quality)}
            suffix="of 100"
            read={async (text) => {
              const quality = Math.round(Number(text));
              if (!(quality >= 20 && quality <= 100)) throw new Error("Write 20 to 100.");
              return String(quality);
            }}
            onChange={(text) => set({ quality: Number(text) })}
          />
        </Fact>
      )}
      {sheets > 1 && (
        <Fact name="Of">
          <Segmented size="small" aria-label="Sheets in the picture" value={whole ? "all" : "one"} options={[{ value: "one", label: "this sheet" }, { value: "all", label: `all ${sheets}` }]} onChange={(value) => setWhole(value === "all")} />
        </Fact>
      )}
      {whole && <p className="soft small">{wish.kind === "tiff" ? "one TIFF with a page a sheet" : "a picture a sheet, in one archive"}</p>}
      {error ? <Note tone="error" title={error.message} /> : <p aria-label="Size of the picture">{size ? `${size.width} × ${size.height} pixels` : "…"}</p>}
      <Button type="primary" block disabled={!!error} title={error ? "What was typed above cannot be used" : undefined} loading={make.isPending} onClick={() => make.mutate({ wish, whole })}>
        Save the picture
      </Button>
    </>
  );
}
