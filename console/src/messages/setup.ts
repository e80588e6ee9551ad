import words from "virtual:messages/en.setup";
import { take } from "../lib/i18n";

/** The words of set-up's pages, which come with the parts that say them. */
take(words);
