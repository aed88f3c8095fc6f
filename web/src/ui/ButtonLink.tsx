import { Link, type LinkProps } from "react-router";
import { BUTTON, type Look, LOOKS } from "./controls.tsx";

/** A link that looks like a button. */
export function ButtonLink({ look = "plain", className = "", ...rest }: LinkProps & { look?: Look }) {
  return <Link className={BUTTON + LOOKS[look] + " " + className} {...rest} />;
}
