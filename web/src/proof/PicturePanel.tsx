import { Button, Segmented } from "antd";
import { useState } from "react";
import { useMakePicture, usePictureSize, type PictureRequest } from "../api/looks";
import { Fact, Note } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

const readSize = async (text: string) => {
  if (!text.trim()) return "";
  const found = /^(\d+)\s*[x×]\s*(\d+)$/i.exec(text.trim());
  if (!found) throw new Error(texts.isNoSizeWritePixels(text));
  return `${found[1]} × ${found[2]}`;
};

/** The file as pixels, its size told before it is made. */
export function PicturePanel({ job, sheet, sheets }: { job: number; sheet: string; sheets: number }) {
  const [whole, setWhole] = useState(false);
  const [wish, setWish] = useState<PictureRequest>({ kind: "png", dpi: 300, pixels: null, colour: "colour", quality: 90 });
  const { data: size, error } = usePictureSize(job, sheet, wish);
  const make = useMakePicture(job, sheet);
  const set = (fields: Partial<PictureRequest>) => setWish({ ...wish, ...fields });
  return (
    <>
      <Fact name={texts.asWord}>
        <Segmented
          size="small"
          aria-label={texts.kindOfPicture}
          value={wish.kind}
          options={[
            { value: "png", label: texts.png },
            { value: "jpeg", label: texts.jpeg },
            { value: "tiff", label: texts.tiff },
          ]}
          onChange={(kind) => set({ kind: kind as PictureRequest["kind"], ...(kind === "jpeg" && wish.colour === "black" ? { colour: "grey" as const } : {}) })}
        />
      </Fact>
      <Fact name={texts.resolution}>
        <TypedField
          label={texts.resolutionOfThePicture}
          value={String(wish.dpi)}
          suffix={texts.dpi}
          read={async (text) => {
            const dpi = Math.round(Number(text.replace(/dpi/i, "")));
            if (!(dpi >= 10 && dpi <= 2400)) throw new Error(texts.write10To2400Dots);
            return String(dpi);
          }}
          onChange={(text) => set({ dpi: Number(text), pixels: null })}
        />
      </Fact>
      <Fact name={texts.exactly}>
        <TypedField
          label={texts.exactSizeInPixels}
          value={wish.pixels ? wish.pixels.join(" × ") : ""}
          placeholder={texts.byResolution}
          read={readSize}
          onChange={(text) => {
            const [across, down] = text.split(" × ").map(Number);
            set({ pixels: text ? [across as number, down as number] : null });
          }}
        />
      </Fact>
      <Fact name={texts.colours}>
        <Segmented
          size="small"
          aria-label={texts.coloursOfThePicture}
          value={wish.colour}
          options={[
            { value: "colour", label: texts.all },
            { value: "grey", label: texts.greys },
            ...(wish.kind === "jpeg" ? [] : [{ value: "black", label: texts.n1Bit }]),
          ]}
          onChange={(colour) => set({ colour: colour as PictureRequest["colour"] })}
        />
      </Fact>
      {wish.kind === "jpeg" && (
        <Fact name={texts.quality}>
          <TypedField
            label={texts.qualityOfThePicture}
            value={String(wish.quality)}
            suffix={texts.of100}
            read={async (text) => {
              const quality = Math.round(Number(text));
              if (!(quality >= 20 && quality <= 100)) throw new Error(texts.write20To100);
              return String(quality);
            }}
            onChange={(text) => set({ quality: Number(text) })}
          />
        </Fact>
      )}
      {sheets > 1 && (
        <Fact name={texts.ofWord}>
          <Segmented
            size="small"
            aria-label={texts.sheetsInThePicture}
            value={whole ? "all" : "one"}
            options={[
              { value: "one", label: texts.thisSheet },
              { value: "all", label: texts.all2(sheets) },
            ]}
            onChange={(value) => setWhole(value === "all")}
          />
        </Fact>
      )}
      {whole && <p className="soft small">{wish.kind === "tiff" ? texts.oneTiffWithAPage : texts.aPictureASheetIn}</p>}
      {error ? <Note tone="error" title={error.message} /> : <p aria-label={texts.sizeOfThePicture}>{size ? texts.pixels(size.width, size.height) : "…"}</p>}
      <Button
        type="primary"
        block
        disabled={!!error}
        title={error ? texts.whatWasTypedAboveCannot : undefined}
        loading={make.isPending}
        onClick={() => make.mutate({ wish, whole })}
      >
        {texts.saveThePicture}
      </Button>
    </>
  );
}
