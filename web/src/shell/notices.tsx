import { CircleAlert, X } from "lucide-react";
import { useScreen } from "./store";

/** Messages at the lower edge; those about something wrong stay until they are dismissed. */
export function Notices() {
  const notices = useScreen((screen) => screen.notices);
  const dismiss = useScreen((screen) => screen.dismiss);
  return (
    <section
      aria-label="Messages"
      aria-live="polite"
      className="pointer-events-none fixed inset-x-0 bottom-4 z-50 flex flex-col items-center gap-2"
    >
      {notices.map((notice) => (
        <div
          key={notice.id}
          role={notice.kind === "wrong" ? "alert" : "status"}
          className="pointer-events-auto flex max-w-2xl items-start gap-3 rounded-md bg-ink px-4 py-2.5 text-ground shadow-lg"
        >
          {notice.kind === "wrong" && (
            <CircleAlert aria-label="Problem" size={18} className="mt-px shrink-0" />
          )}
          <p className="min-w-0 break-words">{notice.text}</p>
          {notice.action && (
            <button
              type="button"
              className="shrink-0 font-semibold underline underline-offset-4 outline-ground"
              onClick={() => {
                notice.action?.run();
                dismiss(notice.id);
              }}
            >
              {notice.action.label}
            </button>
          )}
          <button
            type="button"
            aria-label="Dismiss"
            className="-mr-1 shrink-0 rounded p-0.5 outline-ground"
            onClick={() => dismiss(notice.id)}
          >
            <X size={16} />
          </button>
        </div>
      ))}
    </section>
  );
}
