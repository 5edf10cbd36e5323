import { App } from "antd";
import { useState } from "react";
import type { Job, Sheet } from "../api/client";
import { useSaveTemplate } from "../api/release";
import { Fact } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

/** The sheet saved as how sheets of parts are laid out, under a name. */
export function SaveTemplate({ job, sheet }: { job: Job; sheet: Sheet }) {
  const [open, setOpen] = useState(false);
  const save = useSaveTemplate(job.id);
  const { message } = App.useApp();
  if (!open)
    return (
      <span className="layer-acts">
        <button type="button" onClick={() => setOpen(true)}>
          {texts.saveAsATemplate}
        </button>
      </span>
    );
  return (
    <Fact name={texts.template}>
      <TypedField
        label={texts.nameOfTheTemplate}
        value=""
        read={async (text) => text.trim()}
        onChange={(name) =>
          name &&
          save.mutate(
            { sheet: sheet.id, name },
            {
              onSuccess: (made) => {
                setOpen(false);
                void message.info(texts.templateSaved(made.name, made.version), 5);
              },
            },
          )
        }
      />
    </Fact>
  );
}
