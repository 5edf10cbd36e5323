import { Modal, Slider } from "antd";
import { useState } from "react";
import { CARD, useScreen } from "../common/screen";
import * as texts from "./texts";

/** Hold a bank card against the screen and make the drawn one as large: then real size is real. */
export function Calibrate({ open, close }: { open: boolean; close: () => void }) {
  const { pixels, calibrate } = useScreen();
  const [trial, setTrial] = useState(pixels);
  return (
    <Modal
      open={open}
      title={texts.makeTheCardAsLarge}
      okText={texts.itFits}
      onOk={() => {
        calibrate(trial);
        close();
      }}
      onCancel={close}
      width={640}
      destroyOnHidden
    >
      <p className="soft">{texts.holdABankCard85}</p>
      <div className="card" style={{ width: CARD.width * trial, height: CARD.height * trial }} data-testid="card" />
      <Slider
        ariaLabelForHandle="Width of the card"
        min={2}
        max={8}
        step={0.01}
        value={trial}
        onChange={setTrial}
        tooltip={{ formatter: (v) => `${v?.toFixed(2)} px/mm` }}
      />
    </Modal>
  );
}
