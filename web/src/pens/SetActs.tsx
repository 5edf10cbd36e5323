import { Upload } from "antd";
import type { PenSet } from "../api/pens";
import * as texts from "./texts";

interface Props {
  job: number;
  pens: PenSet | undefined;
  /** Whether it ships, and stays as it is. */
  locked: boolean;
  onCopy: () => void;
  onRemove: (id: string) => void;
  onFile: (file: File) => void;
}

/** What can be done with a pen set as a whole. */
export function SetActs({ job, pens, locked, onCopy, onRemove, onFile }: Props) {
  return (
    <p className="layer-acts">
      <button type="button" onClick={onCopy}>
        {locked ? texts.copyAndEdit : texts.duplicate}
      </button>
      {!locked && pens && (
        <button type="button" onClick={() => onRemove(pens.id)}>
          {texts.remove}
        </button>
      )}
      {pens && (
        <a href={`/api/jobs/${job}/pens/${pens.id}/file.json`} download>
          {texts.saveAsAFile}
        </a>
      )}
      <Upload
        accept=".json"
        showUploadList={false}
        beforeUpload={(file) => {
          onFile(file);
          return false;
        }}
      >
        <button type="button">{texts.openAFile}</button>
      </Upload>
    </p>
  );
}
