import words from "virtual:messages/en.events";
import { take } from "../lib/i18n";

/** The words of what happened, which come with the parts that list it. */
take(words);
