import type { Schemas } from "../api/client";
import { readViewpoint } from "../api/queries";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

interface Props {
  name: string;
  onChoose: (viewpoint: Schemas["ViewpointView"]) => void;
}

/** A direction by name, or any other as it is typed: dir:x,y,z;up:x,y,z. */
export function DirectionField({ name, onChoose }: Props) {
  return (
    <TypedField
      label={texts.viewDirection}
      value={name}
      read={async (text) => (await readViewpoint(text)).name}
      onChange={(text) => void readViewpoint(text).then(onChoose)}
    />
  );
}
