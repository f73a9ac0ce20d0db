import type { ReactNode } from "react";

/** A titled column of the drawer. */
export function Column({
  title,
  wide = true,
  children,
}: {
  title: string;
  wide?: boolean;
  children: ReactNode;
}) {
  return (
    <div className={wide ? "min-w-[236px] max-w-[350px] flex-1" : "w-[150px] shrink-0"}>
      <h3 className="mb-1 text-[12.5px] font-medium text-second">{title}</h3>
      {children}
    </div>
  );
}
