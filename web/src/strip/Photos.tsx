import { useEffect, useMemo, useRef, useState } from "react";
import { newId } from "../shared/id";
import { sendPhoto, useLink, waitingPhoto } from "../offline/sync";
import * as words from "./words";

/** The photos of one thing, small; a touch opens one whole. */
export function Photos({
  job,
  ids,
  label,
  onAdd,
  onDrop,
}: {
  job: string;
  ids: string[];
  label: string;
  onAdd?: (id: string) => void;
  onDrop?: (id: string) => void;
}) {
  const picker = useRef<HTMLInputElement>(null);
  const [share, setShare] = useState<number>();
  const [wrong, setWrong] = useState("");
  const take = async (f: File) => {
    setWrong("");
    setShare(0);
    const id = newId();
    try {
      await sendPhoto(job, id, f, setShare);
      onAdd?.(id);
    } catch (e) {
      setWrong((e as Error).message);
    } finally {
      setShare(undefined);
    }
  };
  return (
    <span className="photos">
      {ids.map((id) => (
        <span key={id} className="photo">
          <Photo id={id} label={label} />
          {onDrop && (
            <button
              type="button"
              className="link"
              aria-label={words.takeThePhotoOf(label)}
              onClick={() => onDrop(id)}
            >
              ✕
            </button>
          )}
        </span>
      ))}
      {onAdd && (
        <>
          <button
            type="button"
            className="tool"
            aria-label={words.photoOf(label)}
            disabled={share !== undefined}
            onClick={() => picker.current?.click()}
          >
            <Camera />
          </button>
          <input
            ref={picker}
            type="file"
            accept="image/*"
            capture="environment"
            hidden
            aria-label={words.photoFileOf(label)}
            onChange={(e) => {
              const f = e.target.files?.[0];
              e.target.value = "";
              if (f) void take(f);
            }}
          />
        </>
      )}
      {share !== undefined && (
        <progress value={share} max={1} aria-label={words.sendingThePhoto}>
          {Math.round(share * 100)} %
        </progress>
      )}
      {wrong && (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      )}
    </span>
  );
}

/** One photo; one that waits to be sent is shown from here. */
function Photo({ id, label }: { id: string; label: string }) {
  useLink(); // drawn anew when it is sent
  const file = waitingPhoto(id);
  const at = useMemo(() => file && URL.createObjectURL(file), [file]);
  useEffect(() => () => void (at && URL.revokeObjectURL(at)), [at]);
  return (
    <a href={at ?? `/api/photos/${id}`} target="_blank" rel="noreferrer">
      <img
        src={at ?? `/api/photos/${id}?thumb=true`}
        alt={words.photoOfWithLabel(label, at ? words.waitsToBeSent : "")}
        loading="lazy"
      />
    </a>
  );
}

const Camera = () => (
  <svg width="22" height="18" viewBox="0 0 22 18" aria-hidden="true">
    <path
      d="M7 3l1.5-2h5L15 3h4a2 2 0 0 1 2 2v10a2 2 0 0 1-2 2H3a2 2 0 0 1-2-2V5a2 2 0 0 1 2-2z"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.8"
    />
    <circle cx="11" cy="10" r="4" fill="none" stroke="currentColor" strokeWidth="1.8" />
  </svg>
);
