import { cleanup, fireEvent, render, screen } from "@testing-library/svelte";
import { createRawSnippet } from "svelte";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../src/lib/api";
import AnyOf from "../src/ui/AnyOf.svelte";
import Alert from "../src/ui/Alert.svelte";
import Badge from "../src/ui/Badge.svelte";
import Button from "../src/ui/Button.svelte";
import Calendar from "../src/ui/Calendar.svelte";
import Checkbox from "../src/ui/Checkbox.svelte";
import DateField from "../src/ui/DateField.svelte";
import Disclosure from "../src/ui/Disclosure.svelte";
import FileInput from "../src/ui/FileInput.svelte";
import FormDialog from "../src/ui/FormDialog.svelte";
import Input from "../src/ui/Input.svelte";
import Kbd from "../src/ui/Kbd.svelte";
import Modal from "../src/ui/Modal.svelte";
import Popover from "../src/ui/Popover.svelte";
import Progress from "../src/ui/Progress.svelte";
import Radio from "../src/ui/Radio.svelte";
import RevisionLine from "../src/ui/RevisionLine.svelte";
import Select from "../src/ui/Select.svelte";
import Spinner from "../src/ui/Spinner.svelte";
import StageBead from "../src/ui/StageBead.svelte";
import Table from "../src/ui/Table.svelte";
import Tabs from "../src/ui/Tabs.svelte";
import Textarea from "../src/ui/Textarea.svelte";
import Toast from "../src/ui/Toast.svelte";
import Trouble from "../src/ui/Trouble.svelte";
import Waiting from "../src/ui/Waiting.svelte";
import ZoneField from "../src/ui/ZoneField.svelte";
import MenuOfTwo from "./MenuOfTwo.svelte";
import SortableOfThree from "./SortableOfThree.svelte";
import { opened } from "./opened";

afterEach(cleanup);

const words = (text: string) => createRawSnippet(() => ({ render: () => `<span>${text}</span>` }));

describe("files from this machine", () => {
  it("are taken by a field that is called what it is for, and tell of what was chosen", async () => {
    const onchange = vi.fn();
    render(FileInput, { "aria-label": "Captions", accept: ".vtt", onchange });
    const field = screen.getByLabelText<HTMLInputElement>("Captions");
    expect([field.type, field.accept, field.multiple]).toEqual(["file", ".vtt", false]);
    await fireEvent.change(field);
    expect(onchange).toHaveBeenCalledOnce();
  });

  it("are taken by an act, which the field inside is called and reached by", () => {
    render(FileInput, { multiple: true, children: words("Upload files") });
    const field = screen.getByLabelText<HTMLInputElement>("Upload files");
    field.focus();
    expect(document.activeElement).toBe(field);
    expect([field.type, field.multiple]).toEqual(["file", true]);
  });
});

describe("what is still coming", () => {
  it("keeps its room and says so", () => {
    render(Waiting, { lines: 3 });
    expect(screen.getByRole("status", { name: "Loading…" }).children.length).toBe(3);
  });
});

describe("a button", () => {
  it("sends nothing unless it is asked to, and keeps what it is called", async () => {
    const onclick = vi.fn();
    render(Button, { children: words("Copy"), onclick });
    const button = screen.getByRole("button", { name: "Copy" });
    expect(button.getAttribute("type")).toBe("button");
    await fireEvent.click(button);
    expect(onclick).toHaveBeenCalledOnce();
  });

  it("with an icon alone is called by its label", () => {
    render(Button, { label: "More actions" });
    expect(screen.getByRole("button", { name: "More actions" }).getAttribute("title")).toBe("More actions");
  });

  it("says that it is busy, and cannot be pressed meanwhile", () => {
    render(Button, { children: words("Save"), busy: true });
    const button = screen.getByRole("button");
    expect([button.getAttribute("aria-busy"), (button as HTMLButtonElement).disabled]).toEqual([
      "true",
      true,
    ]);
  });

  it("that leads somewhere is a link", () => {
    render(Button, { children: words("Open"), href: "/entries" });
    expect(screen.getByRole("link", { name: "Open" }).getAttribute("href")).toBe("/entries");
  });

  it("takes no colours but ours", () => {
    render(Button, { children: words("Release"), look: "main" });
    const { className } = screen.getByRole("button");
    expect(className).toContain("bg-hedge");
    expect(className).not.toMatch(/bg-primary|dark:/);
  });
});

describe("what is typed and chosen", () => {
  it("is kept as it is typed, and what may not be changed is not", async () => {
    render(Input, { "aria-label": "Title", value: "Lamp" });
    const box = screen.getByRole<HTMLInputElement>("textbox", { name: "Title" });
    await fireEvent.input(box, { target: { value: "Harbour lamp" } });
    expect(box.value).toBe("Harbour lamp");
    cleanup();
    render(Textarea, { "aria-label": "Note", value: "x", readonly: true });
    expect(screen.getByRole<HTMLTextAreaElement>("textbox", { name: "Note" }).readOnly).toBe(true);
  });

  it("shows where the focus is, whatever the library hides", () => {
    render(Input, { "aria-label": "Title" });
    render(Button, { children: words("Go") });
    for (const one of [screen.getByRole("textbox"), screen.getByRole("button")])
      expect(one.className).toContain("focus-visible:outline-3");
  });

  it("offers the options that there are and none beside them", () => {
    const children = createRawSnippet(() => ({ render: () => `<option value="en">English</option>` }));
    render(Select, { "aria-label": "Language", value: "en", children });
    expect(screen.getAllByRole("option").map((one) => one.textContent)).toEqual(["English"]);
  });

  it("has in the dark the colours that it has in the light, by our tokens", () => {
    render(Input, { "aria-label": "a" });
    render(Textarea, { "aria-label": "b" });
    render(Select, { "aria-label": "c" });
    render(Checkbox, { "aria-label": "d" });
    render(Radio, { value: "e", children: words("e") });
    for (const one of [
      ...screen.getAllByRole("textbox"),
      screen.getByRole("combobox"),
      screen.getByRole("checkbox"),
      screen.getByRole("radio"),
    ])
      expect(one.className).not.toMatch(/dark:(bg|text|border)-(gray|white|primary)/);
  });

  it("is ticked by its label", async () => {
    const onchange = vi.fn();
    render(Checkbox, { children: words("Required"), onchange });
    const box = screen.getByRole<HTMLInputElement>("checkbox", { name: "Required" });
    await fireEvent.click(screen.getByText("Required"));
    expect([box.checked, onchange.mock.calls.length]).toEqual([true, 1]);
  });

  it("is one of a few", async () => {
    render(Radio, { name: "when", value: "now", group: "later", children: words("Now") });
    const radio = screen.getByRole<HTMLInputElement>("radio", { name: "Now" });
    expect(radio.checked).toBe(false);
    await fireEvent.click(radio);
    expect(radio.checked).toBe(true);
  });
});

describe("a form in a dialog", () => {
  const given = { open: true, title: "Fork", go: "Fork it", children: words("its name") };

  it("is sent once it is ready, and not twice", async () => {
    const onsubmit = vi.fn();
    const { rerender } = render(FormDialog, { ...given, onsubmit, ready: false });
    const form = screen.getByText("its name").closest("form")!;
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Fork it" }).disabled).toBe(true);
    await fireEvent.submit(form);
    await rerender({ ready: true, busy: true });
    await fireEvent.submit(form);
    expect(onsubmit).not.toHaveBeenCalled();
    await rerender({ busy: false });
    await fireEvent.submit(form);
    expect(onsubmit).toHaveBeenCalledOnce();
  });

  it("says in place what is wrong and what to do", () => {
    const error = new Problem(409, { detail: "It is there already.", remedy: "Choose another." });
    render(FormDialog, { ...given, onsubmit: vi.fn(), error });
    expect(screen.getByRole("alert").textContent).toMatch(/It is there already\..*Choose another\./s);
  });

  it("is left by its other button, which says so", async () => {
    const onclose = vi.fn();
    render(FormDialog, { ...given, onsubmit: vi.fn(), onclose });
    await fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
    expect(onclose).toHaveBeenCalled();
  });

  it("has no main button where nothing is left to do", () => {
    render(FormDialog, { ...given, go: "", back: "Close it", onsubmit: vi.fn() });
    expect(screen.getByRole("button", { name: "Close it" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Fork it" })).toBeNull();
  });
});

describe("tabs", () => {
  const tabs = [
    { key: "now", label: "Now" },
    { key: "page", label: "Page" },
    { key: "history", label: "History" },
  ];

  it("are one stop of the keyboard, and gone through by the arrows, Home and End", async () => {
    render(Tabs, { tabs, chosen: "now", label: "Beside", children: words("panel") });
    const seen = () => screen.getAllByRole("tab").filter((one) => one.tabIndex === 0);
    const press = async (key: string) => {
      await fireEvent.keyDown(seen()[0]!, { key });
      expect(document.activeElement).toBe(seen()[0]);
      return seen().map((one) => one.textContent?.trim());
    };
    expect(await press("ArrowLeft")).toEqual(["History"]);
    expect(await press("ArrowRight")).toEqual(["Now"]);
    expect(await press("End")).toEqual(["History"]);
    expect(await press("Home")).toEqual(["Now"]);
    const panel = screen.getByRole("tabpanel");
    expect(document.getElementById(panel.getAttribute("aria-labelledby")!)).toBe(seen()[0]);
  });
});

describe("a menu", () => {
  it("holds nothing until it opens, is gone through by the arrows, and does what is chosen", async () => {
    const chosen = vi.fn();
    render(MenuOfTwo, { chosen });
    const act = screen.getByRole("button", { name: "More actions" });
    expect(act.getAttribute("aria-expanded")).toBe("false");
    expect(screen.queryByText("Copy")).toBeNull();
    const sheet = await opened(act);
    expect(act.getAttribute("aria-expanded")).toBe("true");
    const hide = vi.fn();
    sheet.hidePopover = hide;
    const [copy, remove] = [
      screen.getByRole("button", { name: "Copy" }),
      screen.getByRole("button", { name: "Remove" }),
    ];
    await fireEvent.keyDown(copy, { key: "ArrowDown" });
    expect(document.activeElement).toBe(copy);
    await fireEvent.keyDown(copy, { key: "ArrowUp" });
    expect(document.activeElement).toBe(remove);
    await fireEvent.click(remove);
    expect(chosen.mock.calls).toEqual([["remove"]]);
    expect(hide).toHaveBeenCalledOnce();
  });
});

describe("more and how far", () => {
  it("is behind a line that says whether it is open", async () => {
    render(Disclosure, { title: "Uses", children: words("twice") });
    const line = screen.getByRole("button", { name: "Uses" });
    expect(screen.getByText("twice").closest(".hidden")).toBeTruthy();
    await fireEvent.click(line);
    expect(line.getAttribute("aria-expanded")).toBe("true");
    expect(screen.getByText("twice").closest(".hidden")).toBeNull();
  });

  it("is said in parts of a hundred, and never more", () => {
    render(Progress, { value: 90, max: 60, label: "Title" });
    const bar = screen.getByRole("progressbar", { name: "Title" });
    expect(bar.getAttribute("aria-valuenow")).toBe("100");
    expect(bar.querySelector<HTMLElement>(".bg-hedge")!.style.width).toBe("100%");
  });
});

describe("a day", () => {
  const box = () => screen.getByRole<HTMLInputElement>("textbox", { name: "Due" });

  it("is shown in words, typed as people say it, and said as it was understood", async () => {
    const [onvalue, onchange] = [vi.fn(), vi.fn()];
    render(DateField, { label: "Due", value: "2027-03-31", onvalue, onchange });
    expect(box().value).toBe("Wed, 31 Mar 2027");
    await fireEvent.input(box(), { target: { value: "1 apr 2027" } });
    expect(screen.getByText("Thu, 1 Apr 2027")).toBeTruthy();
    await fireEvent.change(box());
    expect(box().value).toBe("Thu, 1 Apr 2027");
    expect([onvalue.mock.calls, onchange.mock.calls]).toEqual([[["2027-04-01"]], [["2027-04-01"]]]);
  });

  it("that cannot be read is none, says so, and keeps a form from being sent", async () => {
    const onvalue = vi.fn();
    render(DateField, { label: "Due", value: "2027-03-31", onvalue });
    await fireEvent.input(box(), { target: { value: "32 March" } });
    expect(screen.getByRole("alert").textContent).toContain("Write it as 30 Nov 2026");
    expect([box().validationMessage !== "", box().getAttribute("aria-invalid")]).toEqual([true, "true"]);
    expect(onvalue).not.toHaveBeenCalled();
    await fireEvent.change(box());
    expect(box().value).toBe("32 March");
    await fireEvent.input(box(), { target: { value: "" } });
    expect([box().validationMessage, onvalue.mock.calls]).toEqual(["", [[""]]]);
  });

  it("is chosen from a calendar, by its keys too", async () => {
    const onchange = vi.fn();
    render(DateField, { label: "Due", value: "2027-01-31", time: true, zone: "UTC", onchange });
    await opened(screen.getByRole("button", { name: "Open the calendar" }));
    const at = () => document.activeElement!.getAttribute("data-day");
    expect(screen.getByRole("button", { name: "Sunday, 31 January 2027" }).tabIndex).toBe(0);
    for (const [key, to] of [
      ["PageDown", "2027-02-28"],
      ["ArrowRight", "2027-03-01"],
      ["End", "2027-03-07"],
      ["ArrowUp", "2027-02-28"],
      ["Home", "2027-02-22"],
    ] as const) {
      await fireEvent.keyDown(screen.getByRole("grid"), { key });
      expect(at()).toBe(to);
    }
    await fireEvent.click(document.activeElement!);
    expect(onchange).toHaveBeenLastCalledWith("2027-02-22T09:00");
    await fireEvent.change(screen.getByLabelText("Hour"), { target: { value: "14" } });
    expect(onchange).toHaveBeenLastCalledWith("2027-02-22T14:00");
    expect(box().value).toBe("Mon, 22 Feb 2027, 14:00");
  });
});

describe("what is said", () => {
  it("is an alert only where it is told to be one", () => {
    const { unmount } = render(Alert, { children: words("Late") });
    expect(screen.queryByRole("alert")).toBeNull();
    unmount();
    render(Alert, { children: words("Late"), role: "alert" });
    expect(screen.getByRole("alert").textContent).toContain("Late");
  });

  it("of trouble has what can be done, and tries again", async () => {
    const again = vi.fn();
    render(Trouble, { error: new Problem(409, { detail: "It moved.", remedy: "Look again." }), again });
    expect(screen.getByRole("alert").textContent).toContain("Look again.");
    await fireEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(again).toHaveBeenCalledOnce();
  });

  it("in passing is closed by its button, and is no alert of its own in the live region", async () => {
    const onclose = vi.fn();
    render(Toast, { children: words("Saved"), onclose });
    expect(screen.queryByRole("alert")).toBeNull();
    await fireEvent.click(screen.getByRole("button", { name: "Close" }));
    expect(onclose).toHaveBeenCalledOnce();
  });

  it("beside something is words, not colour alone", () => {
    render(Badge, { children: words("late"), tone: "straw" });
    render(Kbd, { children: words("Ctrl K") });
    expect(screen.getByText("late")).toBeTruthy();
    expect(screen.getByText("Ctrl K").closest("kbd")).toBeTruthy();
  });
});

describe("a time zone", () => {
  it("is one of all, its own first, and says how far from UTC it is once it is looked at", async () => {
    const onvalue = vi.fn();
    render(ZoneField, { label: "Time zone", value: "Asia/Tokyo", onvalue });
    const field = screen.getByLabelText<HTMLSelectElement>("Time zone");
    expect(field.options[0]!.value).toBe("Asia/Tokyo");
    expect(field.options.length).toBeGreaterThan(300);
    await fireEvent.focus(field);
    expect(field.options[0]!.textContent).toContain("(+09:00)");
    await fireEvent.change(field, { target: { value: "UTC" } });
    expect(onvalue).toHaveBeenCalledWith("UTC");
  });
});

describe("one of some, or any", () => {
  it("is any until one is chosen, and is called by its label", async () => {
    render(AnyOf, { label: "Content type", value: "", options: new Map([["label", "Exhibit label"]]) });
    const field = screen.getByLabelText<HTMLSelectElement>("Content type");
    expect([...field.options].map((one) => one.value)).toEqual(["", "label"]);
    expect(field.value).toBe("");
    await fireEvent.change(field, { target: { value: "label" } });
    expect(field.selectedOptions[0]!.textContent).toBe("Exhibit label");
  });
});

describe("things in an order", () => {
  it("are moved by the arrows on their handles, which keep the focus, and no further than the ends", async () => {
    const onOrder = vi.fn();
    render(SortableOfThree, { onOrder });
    const handle = screen.getByRole("button", { name: "Move a" });
    await fireEvent.keyDown(handle, { key: "ArrowUp" });
    expect(onOrder).not.toHaveBeenCalled();
    await fireEvent.keyDown(handle, { key: "ArrowDown" });
    expect(onOrder).toHaveBeenLastCalledWith(["b", "a", "c"]);
    await vi.waitFor(() =>
      expect(document.activeElement).toBe(screen.getByRole("button", { name: "Move a" })),
    );
    expect(screen.getAllByRole("listitem").map((one) => one.getAttribute("aria-label"))).toEqual([
      "b",
      "a",
      "c",
    ]);
  });
});

describe("a month of days", () => {
  const given = { chosen: "2026-11-30", today: "2026-11-27", onChoose: vi.fn() };
  const day = (container: Element, at: string) => container.querySelector<HTMLElement>(`[data-day="${at}"]`)!;

  it("is gone through by the arrows, over its ends too, and one day is reached by Tab", async () => {
    const { container } = render(Calendar, given);
    const grid = screen.getByRole("grid");
    expect(container.querySelectorAll('[data-day][tabindex="0"]').length).toBe(1);
    await fireEvent.keyDown(grid, { key: "ArrowRight" });
    await vi.waitFor(() => expect(document.activeElement).toBe(day(container, "2026-12-01")));
    await fireEvent.keyDown(grid, { key: "PageUp" });
    await vi.waitFor(() => expect(document.activeElement).toBe(day(container, "2026-11-01")));
  });

  it("gives the day that is pressed", async () => {
    const onChoose = vi.fn();
    const { container } = render(Calendar, { ...given, onChoose });
    await fireEvent.click(day(container, "2026-11-12"));
    expect(onChoose).toHaveBeenCalledWith("2026-11-12");
  });
});

describe("what is settled before anything else", () => {
  it("is called by its title, and is left by its close button", async () => {
    const onclose = vi.fn();
    render(Modal, { open: true, title: "Keys", onclose, children: words("Ctrl K") });
    const dialog = screen.getByRole("dialog", { name: "Keys" });
    expect(dialog.textContent).toContain("Ctrl K");
    await fireEvent.click(screen.getByRole("button", { name: /close/i }));
    await vi.waitFor(() => expect(onclose).toHaveBeenCalled());
  });
});

describe("more that an act opens", () => {
  it("is there only while it is open, and the act says so", async () => {
    render(Popover, { title: "View", children: words("Columns") });
    const act = screen.getByRole("button", { name: "View" });
    expect([act.getAttribute("aria-expanded"), screen.queryByText("Columns")]).toEqual(["false", null]);
    const sheet = await opened(act);
    expect([act.getAttribute("aria-expanded"), screen.queryByText("Columns") !== null]).toEqual([
      "true",
      true,
    ]);
    await fireEvent(sheet, Object.assign(new Event("toggle"), { newState: "closed" }));
    expect(screen.queryByText("Columns")).toBeNull();
  });
});

describe("rows and columns", () => {
  it("are called by their label, and scroll by themselves unless their heads are pinned", async () => {
    const body = createRawSnippet(() => ({ render: () => "<tbody><tr><td>1</td></tr></tbody>" }));
    const { rerender } = render(Table, { "aria-label": "Units", children: body });
    const holder = () => screen.getByRole("table", { name: "Units" }).parentElement!.className;
    expect(holder()).toContain("overflow-x-auto");
    await rerender({ pinned: true });
    expect(holder()).toContain("overflow-visible");
  });
});

describe("marks that are drawn", () => {
  it("say nothing to who hears the page, for the words beside them do", () => {
    const row = { lane: 0, passing: [1], down: [0, 1], draft: true };
    const { container } = render(RevisionLine, { rows: [row, { ...row, down: [] }], at: 1 });
    // What passes, and the line from the row above: nothing leads down from the first revision.
    expect(container.querySelectorAll("line").length).toBe(2);
    expect(container.querySelector("[aria-hidden=true] circle")!.getAttribute("fill")).toBe("var(--hedge)");
    cleanup();
    const bead = render(StageBead, { last: true }).container;
    expect([
      bead.querySelectorAll("line").length,
      bead.querySelectorAll("[aria-hidden=true]").length,
    ]).toEqual([0, 1]);
  });

  it("say that something is on its way where nothing else does", () => {
    render(Spinner);
    expect(screen.getByRole("status")).toBeTruthy();
  });
});
