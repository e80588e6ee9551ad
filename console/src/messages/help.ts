import words from "virtual:messages/en.help";
import { take } from "../lib/i18n";

/** The words of the help, which come with the pane that says them. */
take(words);
