import { Modal } from "antd";
import { usePrintedDrawing, type NamedDrawing } from "../api/register";
import { mm } from "../paper/geometry";
import { usePrinter } from "../proof/printer";
import { keyOf } from "./keys";
import * as texts from "./texts";

const MOST = 50;

function Printed({ drawing }: { drawing: NamedDrawing }) {
  const printer = usePrinter((state) => state.printer);
  const { data, error } = usePrintedDrawing(drawing, printer);
  const out = data?.printed;
  const factor = out ? (out.measured ?? out.factor) : 1;
  const exact = Math.abs(factor - 1) < 1e-6;
  return (
    <tr>
      <td>{drawing.called}</td>
      <td>
        {error ? (
          <span className="over">{error.message}</span>
        ) : out ? (
          <>
            {mm(factor * 100, 4)} % <b className={exact ? "holds" : "fails"}>{exact ? texts.toScale : texts.notToScale}</b>
          </>
        ) : (
          texts.printing
        )}
      </td>
      <td>{data?.picture && out && <img src={data.picture} alt="" />}</td>
    </tr>
  );
}

/** Prints drawings on the stand-in printer, and says at which scale each comes out. */
export function PrintDialog({ drawings, close }: { drawings: NamedDrawing[]; close: () => void }) {
  const printer = usePrinter((state) => state.printer);
  return (
    <Modal open width={640} title={texts.printOnStandIn} cancelText={texts.close} okButtonProps={{ style: { display: "none" } }} onCancel={close}>
      <p className="soft">{texts.paperOf(printer.width, printer.height)}</p>
      {drawings.length > MOST && <p className="soft">{texts.atMost(MOST)}</p>}
      <table className="printed-drawings">
        <thead>
          <tr>
            <th>{texts.sheet}</th>
            <th>{texts.printedAt}</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {drawings.slice(0, MOST).map((own) => (
            <Printed key={keyOf(own)} drawing={own} />
          ))}
        </tbody>
      </table>
    </Modal>
  );
}
