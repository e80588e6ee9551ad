import words from "virtual:messages/en.exchange";
import { take } from "../lib/i18n";

/** The words of what goes out and comes in, which come with the parts that say them. */
take(words);
