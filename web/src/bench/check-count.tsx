import { useScreen } from "../shell/store";
import { TextButton } from "../ui/button";
import { useChecking, useReports } from "./checks";

/** How many checks have something to look at, in every stage; it leads there. */
export function CheckCount() {
  useChecking();
  const { reports, count } = useReports();
  const setStage = useScreen((screen) => screen.setStage);
  const fails = reports.filter((report) => report.verdict === "fails").length;
  if (reports.length === 0 || reports.every((report) => report.verdict === "nothing"))
    return <span className="w-20" />;
  return (
    <TextButton
      onClick={() => setStage("check")}
      className="w-20 font-normal text-quiet"
      title={`${fails} ${fails === 1 ? "check fails" : "checks fail"}, ${count - fails} to look at again`}
      data-mark="check-count"
    >
      {count === 0 ? "all holds" : `${count} to look at`}
    </TextButton>
  );
}
