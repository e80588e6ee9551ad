import words from "virtual:messages/en.figures";
import { take } from "../lib/i18n";

/** The words of figures, which come with the parts that say them. */
take(words);
