import words from "virtual:messages/en.release";
import { take } from "../lib/i18n";

/** The words of going out, which come with the parts that say them. */
take(words);
