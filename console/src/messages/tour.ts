import words from "virtual:messages/en.tour";
import { take } from "../lib/i18n";

/** The words of the tour, which come when somebody takes it. */
take(words);
