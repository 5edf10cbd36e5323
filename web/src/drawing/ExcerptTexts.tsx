import { Button, Select } from "antd";
import { useState } from "react";
import type { Edit, View } from "../api/client";
import { excerptOf } from "../api/content";
import { useExcerptTexts } from "../api/drawings";
import { Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

/** Texts of an excerpt's drawing with other words in their place: a title, a number. */
export function ExcerptTexts({ job, sheet, view, pdf, edit }: { job: number; sheet: string; view: View; pdf: boolean; edit: (edit: Edit) => void }) {
  const [looking, setLooking] = useState(false);
  const [chosen, setChosen] = useState<string[]>([]);
  const changed = Object.keys(excerptOf(view)?.texts ?? {});
  const { data } = useExcerptTexts(job, sheet, view.id, excerptOf(view), looking || changed.length > 0);
  const write = (key: string, text: string | null) => edit({ kind: "replace_text", sheet, view: view.id, key, text });
  const rows = data?.filter((own) => own.anew != null || chosen.includes(own.key)) ?? [];
  return (
    <Section title={texts.textsReplaced}>
      <ul className="rows texts-anew">
        {rows.map((own) => (
          <li key={own.key}>
            <em>{own.text}</em>
            <TypedField
              label={texts.insteadOf(own.text)}
              value={own.anew ?? own.text}
              read={async (text) => text.trim()}
              onChange={(text) => write(own.key, text)}
            />
            {own.anew != null && (
              <Button
                type="link"
                size="small"
                onClick={() => {
                  setChosen((now) => now.filter((key) => key !== own.key));
                  write(own.key, null);
                }}
              >
                {texts.restore}
              </Button>
            )}
          </li>
        ))}
      </ul>
      <Select<string | null>
        showSearch
        aria-label={texts.aTextOfTheDrawing}
        placeholder={texts.findATextOfThe}
        value={null}
        loading={looking && !data}
        onFocus={() => setLooking(true)}
        onChange={(key) => key && setChosen((now) => [...now, key])}
        optionFilterProp="label"
        options={data?.filter((own) => !rows.includes(own)).map((own) => ({ value: own.key, label: own.text })) ?? []}
        notFoundContent={data ? texts.noMatch : texts.readingItsTexts}
      />
      <p className="soft small">
        {texts.inThePlaceSizeAnd}
        {pdf && texts.thePageThenGoesOut}
      </p>
    </Section>
  );
}
