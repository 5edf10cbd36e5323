import { Button, Modal, Spin } from "antd";
import { useState } from "react";
import { said, type Job } from "../api/client";
import { useGiveMarks, useNumbering, type Answer } from "../api/parts";
import { Note } from "../ticket/Ticket";
import * as texts from "./texts";

/** What numbering comes to: what is new, what stays, what changed and is asked, what is gone. */
export function MarksDialog({ job, close }: { job: Job; close: () => void }) {
  const [answer, setAnswer] = useState<Answer>({ keep: [], renew: [] });
  const [asked] = useState<Answer>({ keep: [], renew: [] });
  const { data, error } = useNumbering(job, answer);
  // what is asked does not go away once it is answered
  const { data: open } = useNumbering(job, asked);
  const give = useGiveMarks(job.id);
  const changed = open?.changed ?? [];
  const settled = changed.every(({ mark }) => answer.keep.includes(mark) || answer.renew.includes(mark));
  const say = (mark: string, keeps: boolean) => {
    const [keep, renew] = [answer.keep, answer.renew].map((marks) => marks.filter((own) => own !== mark));
    setAnswer(keeps ? { keep: [...keep!, mark], renew: renew! } : { keep: keep!, renew: [...renew!, mark] });
  };
  const done = data && !data.new.length && !changed.length && !data.gone.length;
  return (
    <Modal
      open
      onCancel={close}
      title={texts.marksTitle}
      width={620}
      style={{ top: 40 }}
      okText={texts.giveThem}
      okButtonProps={{ disabled: !data || !settled || !!done }}
      confirmLoading={give.isPending}
      onOk={() => give.mutate(answer, { onSuccess: close })}
    >
      {error && <Note tone="error" title={said(error)} />}
      {!data && !error && <Spin />}
      {data && (
        <div className="numbering">
          {done ? (
            <p>{texts.nothingToMark}</p>
          ) : (
            <p>
              {texts.marksNew(data.new.length)}, {texts.marksKept(data.kept)}.
            </p>
          )}
          {changed.length > 0 && (
            <section>
              <h3>{texts.changedSince}</h3>
              <ul>
                {changed.map(({ key, name, mark }) => (
                  <li key={key}>
                    <span>{name}</span>
                    <span className="chips">
                      <button type="button" aria-pressed={answer.keep.includes(mark)} onClick={() => say(mark, true)}>
                        {texts.keeps(mark)}
                      </button>
                      <button type="button" aria-pressed={answer.renew.includes(mark)} onClick={() => say(mark, false)}>
                        {texts.getsANewMark}
                      </button>
                    </span>
                  </li>
                ))}
              </ul>
              {!settled && <p className="soft">{texts.answerAll}</p>}
              {changed.length > 1 && (
                <Button type="link" size="small" onClick={() => setAnswer({ keep: changed.map((own) => own.mark), renew: [] })}>
                  {texts.allKeep}
                </Button>
              )}
            </section>
          )}
          {data.gone.length > 0 && <p className="soft">{texts.marksGone(data.gone.join(", "))}</p>}
          {data.new.length > 0 && (
            <ul className="new-marks">
              {data.new.map((key) => (
                <li key={key}>
                  <b>{data.marks[key]}</b> {key}
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
    </Modal>
  );
}
