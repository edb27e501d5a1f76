import { Link } from "@tanstack/react-router";
import { DropdownMenu } from "radix-ui";
import { type ReactNode, useState } from "react";
import { setTheme, type Theme, theme } from "../ui/theme";
import { Count, type PlaceOf } from "./Place";
import { useSession } from "./signin/session";

/** A menu opens as it comes: somebody has pressed what stood in its place. */
interface Menu {
  className: string;
  words: ReactNode;
}

/** What the menu under one's name opens. */
export interface Dialogs {
  onAway: () => void;
  onActAs: () => void;
  onPassword: () => void;
  onTokens: () => void;
  onReach: () => void;
}

/** On a phone: the places for which the bar has no room. */
export function MoreMenu({ places, className, words }: Menu & { places: PlaceOf[] }) {
  return (
    <DropdownMenu.Root defaultOpen>
      <DropdownMenu.Trigger aria-label="More places" className={className}>
        {words}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          className="z-50 min-w-48 rounded-lg border border-hairline bg-raised p-1 shadow-lg"
        >
          {places.map((p) => (
            <DropdownMenu.Item key={p.to} asChild>
              <Link
                to={p.to}
                className="flex justify-between gap-4 rounded-md px-3 py-2 outline-none data-highlighted:bg-here"
              >
                {p.name}
                <Count place={p} />
              </Link>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** What is about oneself. */
export function AccountMenu({ className, words, onAway, onActAs, onPassword, onTokens, onReach }: Menu & Dialogs) {
  const { signOut, demo, standins } = useSession();
  const item = "block w-full cursor-pointer rounded-md px-3 py-1.5 text-left outline-none data-highlighted:bg-here";
  const [current, setCurrent] = useState<Theme>(theme());
  return (
    <DropdownMenu.Root defaultOpen>
      <DropdownMenu.Trigger className={className}>{words}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          className="z-50 min-w-48 rounded-lg border border-hairline bg-raised p-1 shadow-lg"
        >
          <DropdownMenu.Label className="px-3 py-1 text-xs text-ink-2">Light</DropdownMenu.Label>
          {(["light", "dark", "system"] as const).map((t) => (
            <DropdownMenu.Item
              key={t}
              className={item}
              onSelect={() => {
                setTheme(t);
                setCurrent(t);
              }}
            >
              {t === "light" ? "By day" : t === "dark" ? "By night" : "As the system"} {current === t && "✓"}
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Separator className="my-1 h-px bg-hairline" />
          {standins && (
            <DropdownMenu.Item className={item} asChild>
              <a href={standins} target="_blank" rel="noreferrer">
                Stand-ins, mailbox and chat
              </a>
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={item} onSelect={onAway}>
            When I am away…
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={onReach}>
            How I am reached…
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={onActAs}>
            Let an administrator help…
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={onTokens}>
            My API tokens…
          </DropdownMenu.Item>
          {!demo && (
            <DropdownMenu.Item className={item} onSelect={onPassword}>
              Change my password…
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={item} onSelect={signOut}>
            {demo ? "Be somebody else" : "Sign out"}
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
