import { Button } from "antd";
import { useNavigate } from "react-router";
import { usePutFinished } from "../api/finished";
import * as texts from "./texts";

/** Makes a sheet that lies on a page of a PDF, which stays as it is. */
export function AsItIs({ job, source, space }: { job: number; source: string; space: string }) {
  const navigate = useNavigate();
  const put = usePutFinished(job);
  return (
    <Button
      loading={put.isPending}
      title={texts.whatIsAddedLiesOnIt}
      onClick={() => put.mutate({ source, space }, { onSuccess: (placed) => void navigate(`/jobs/${job}/sheets/${placed.sheet}`) })}
    >
      {texts.useThisPageAsItIs}
    </Button>
  );
}
