import { Button, Input, Modal, Segmented, Select } from "antd";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { Edit, Schemas, Sheet } from "../api/client";
import { dropFormat, keepFormat, useOwnFormats } from "../api/desk";
import { readFormat, useTrade } from "../api/queries";
import { useTell } from "../api/tell";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { inUnit } from "../common/unit";
import { LengthsField } from "../views/LengthsField";
import * as texts from "./texts";
import * as viewsTexts from "../views/texts";

type Follow = Schemas["FollowFormat"];
type Wish = { format: string; orientation: "portrait" | "landscape" };

const FOLLOW: { value: Follow; title: string; word: string }[] = [
  { value: "keep", title: texts.keepTheirPosition, word: texts.measuredFromTheLowerLeft },
  { value: "centre", title: texts.keepThemCentred, word: texts.allViewsMoveTogetherWith },
  { value: "rescale", title: texts.changeScaleToFit, word: texts.toThePreferredScaleThat },
];

/** A sheet's format, typed or chosen, and kept under a name; with views on it, asks what they are to do. */
export function FormatFacts({ sheet, edit }: { sheet: Sheet; edit: (edit: Edit) => void }) {
  const { data: trade } = useTrade();
  const { data: own = {} } = useOwnFormats();
  const client = useQueryClient();
  const tell = useTell();
  const [wish, setWish] = useState<Wish | null>(null);
  const [keeping, setKeeping] = useState<string | null>(null);
  const kept = Object.entries(own).find(([, size]) => size === sheet.format)?.[0];
  const named = trade?.formats.some((f) => f.name === sheet.format);
  const reformat = (to: Wish, views: Follow) => edit({ kind: "reformat", sheet: sheet.id, format: to.format, orientation: to.orientation, views });
  const ask = (to: Wish) => (sheet.views.length ? setWish(to) : reformat(to, "keep"));
  const setFormat = async (text: string) => {
    const found = await readFormat(text);
    const standard = trade?.formats.some((f) => f.name === found.name);
    // a size that was typed lies as typed; a named format keeps the way that the sheet lies
    const wide = found.width > found.height;
    ask({ format: found.name, orientation: wide ? "landscape" : standard ? sheet.orientation : "portrait" });
  };
  const change = (act: Promise<void>) => act.then(() => client.invalidateQueries({ queryKey: ["own-formats"] })).catch(tell);
  const margins = sheet.margins ?? trade?.frame_margins[sheet.frame] ?? [0, 0, 0, 0];
  return (
    <>
      <Fact name={texts.format}>
        <span className="pair">
          <TypedField
            label={texts.format}
            value={kept ?? sheet.format}
            read={async (text) => (Object.keys(own).find((n) => n.toLowerCase() === text.trim().toLowerCase()) ? text.trim() : (await readFormat(text)).name)}
            onChange={(text) => void setFormat(text).catch(tell)}
          />
          <Select
            aria-label={texts.standardSizes}
            variant="borderless"
            value={null}
            placeholder={texts.standardSizes}
            popupMatchSelectWidth={false}
            onChange={(name: string | null) => name && void setFormat(name).catch(tell)}
            options={[
              ...(Object.keys(own).length
                ? [
                    {
                      label: texts.yourOwn,
                      options: Object.entries(own).map(([name, size]) => ({ value: name, label: `${name}  ${size.replace("x", " × ").replace("mm", "")}` })),
                    },
                  ]
                : []),
              {
                label: viewsTexts.standard,
                options: trade?.formats.map((f) => ({ value: f.name, label: `${f.name}  ${inUnit(f.width, 1)} × ${inUnit(f.height, 1)}` })) ?? [],
              },
            ]}
          />
        </span>
        {!named &&
          (keeping === null ? (
            <Button type="link" size="small" onClick={() => (kept ? void change(dropFormat(kept)) : setKeeping(""))}>
              {kept ? texts.removeThisName : texts.saveUnderAName}
            </Button>
          ) : (
            <Input
              size="small"
              autoFocus
              aria-label={texts.nameOfTheFormat}
              placeholder={texts.suchAsLabel}
              onBlur={() => setKeeping(null)}
              onPressEnter={(event) => {
                void change(keepFormat(event.currentTarget.value, sheet.format));
                setKeeping(null);
              }}
            />
          ))}
      </Fact>
      <Fact name={texts.orientation}>
        <Segmented<"portrait" | "landscape">
          size="small"
          aria-label={texts.orientation}
          value={sheet.orientation}
          onChange={(orientation) => ask({ format: sheet.format, orientation })}
          options={["landscape", "portrait"]}
        />
      </Fact>
      <Fact name={texts.margins}>
        <LengthsField
          label={texts.margins}
          values={margins}
          check={(sides, text) => {
            if (![1, 4].includes(sides.length)) throw new Error(texts.isNotAMarginWrite(text));
            return sides.length === 1 ? Array<number>(4).fill(sides[0]!) : sides;
          }}
          onChange={(sides) => edit({ kind: "change_sheet", sheet: sheet.id, fields: { margins: sides as Schemas["SheetPatch"]["margins"] } })}
        />
        {sheet.margins && (
          <Button type="link" size="small" onClick={() => edit({ kind: "change_sheet", sheet: sheet.id, fields: { margins: null } })}>
            {texts.asTheStandard}
          </Button>
        )}
      </Fact>
      <Modal open={!!wish} title={texts.whatHappensToTheViews(wish?.format ?? "")} footer={null} onCancel={() => setWish(null)} width={460}>
        <div className="choices">
          {FOLLOW.map((row) => (
            <button
              key={row.value}
              type="button"
              onClick={() => {
                if (wish) reformat(wish, row.value);
                setWish(null);
              }}
            >
              <strong>{row.title}</strong>
              <span className="soft">{row.word}</span>
            </button>
          ))}
        </div>
      </Modal>
    </>
  );
}
