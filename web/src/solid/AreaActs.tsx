import { Button } from "antd";
import { useDeskMode } from "../views/mode";
import * as texts from "./texts";

/** Two ways to say where a 3D annotation lies: drawn with one stroke, or all of the sheet. */
export function AreaActs({ onFill }: { onFill: () => void }) {
  const begin = useDeskMode((state) => state.begin);
  return (
    <>
      <Button type="link" size="small" onClick={() => begin("area")}>
        {texts.drawItsArea}
      </Button>
      <Button type="link" size="small" onClick={onFill}>
        {texts.fillTheSheet}
      </Button>
    </>
  );
}
