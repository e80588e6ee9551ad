import words from "virtual:messages/en.translation";
import { take } from "../lib/i18n";

/** The words of translation, which come with the parts that say them. */
take(words);
