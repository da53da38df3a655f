import { AutoComplete, type AutoCompleteProps } from "antd";
import { useRef, useState, type KeyboardEvent } from "react";

/**
 * A field for free words that proposes what is known. What was typed stays as it was typed: Enter and Tab take a
 * proposal only after the arrow keys have gone to one.
 */
export function FreeText(props: AutoCompleteProps) {
  const [open, setOpen] = useState(false);
  const went = useRef(false);
  const onKey = (e: KeyboardEvent) => {
    if (e.key === "ArrowDown" || e.key === "ArrowUp") went.current = true;
    else if ((e.key === "Enter" || e.key === "Tab") && !went.current) {
      e.stopPropagation();
      if (e.key === "Enter") e.preventDefault();
      setOpen(false);
    }
  };
  return (
    <div onKeyDownCapture={onKey}>
      <AutoComplete
        {...props}
        style={{ width: "100%", ...props.style }}
        defaultActiveFirstOption={false}
        open={open}
        onOpenChange={setOpen}
        onSearch={(t) => {
          went.current = false;
          setOpen(true);
          props.onSearch?.(t);
        }}
        onSelect={(...x) => {
          went.current = false;
          setOpen(false);
          props.onSelect?.(...x);
        }}
      />
    </div>
  );
}
