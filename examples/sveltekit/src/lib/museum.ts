export type Locale = "en" | "fr" | "de" | "ja" | "ar";

/** A picture in one crop, around its focus. */
export interface ReadRendition {
  width: number;
  height: number;
  webp: string;
  avif: string;
  original: string;
}

/** A file that an entry holds; its renditions are by the name of the crop. */
export interface ReadFile {
  href: string;
  alt: string;
  caption?: string;
  width?: number;
  height?: number;
  media_type?: string;
  name?: string;
  bytes?: number;
  focus?: number[];
  captions?: { href: string; locale: Locale }[];
  renditions: Record<string, ReadRendition>;
}

/** An entry that another refers to. */
export interface ReadReference {
  id: string;
  type: string;
  locale: string;
  title: string;
  path?: string | null;
  file?: ReadFile | null;
  fields?: Record<string, unknown> | null;
  locked?: boolean;
}

/** An entry as those who read see it. */
export interface ReadEntry<Type extends string, Fields> {
  id: string;
  type: Type;
  locale: Locale;
  wanted_locale: Locale;
  title: string;
  path: string | null;
  revision: number;
  since: string;
  date: string | null;
  pinned: boolean;
  fields: Fields;
  openings: Record<string, unknown>;
  regions: Record<string, string>;
  search: { title?: unknown; description?: unknown; picture?: unknown };
  references: Record<string, ReadReference>;
  locales: { locale: Locale; path: string | null }[];
  shown?: Record<string, unknown> | null;
  limited?: "" | "hidden" | "locked";
  locked?: boolean;
}

/** A page of a list. */
export interface ReadPage<One> {
  items: One[];
  next: string;
  included?: Record<string, AnyEntry> | null;
  referring?: Record<string, Record<string, string[]>> | null;
}

/** Common block */
export interface CommonBlockFields {
  /** Name */
  title?: string;
  /** Content */
  content?: ({
    id: string;
    kind: "words";
    fields: {
      /** Text */
      text?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "quote";
    fields: {
      /** What was said */
      said?: string;
      /** By */
      by?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "picture";
    fields: {
      /** Picture */
      picture?: string;
      /** Caption */
      caption?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "listing";
    fields: {
      /** Heading */
      heading?: string;
      /** What it lists */
      list?: {
        rule: Record<string, unknown>;
        items: ({
          id: string;
          type: string;
          locale: string;
          title: string;
          date: string;
          summary: string;
          path: string | null;
        })[];
      };
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  })[];
}
export type CommonBlock = ReadEntry<"common_block", CommonBlockFields>;

/** Document */
export interface DocumentFields {
  /** Title */
  title?: string;
  /** File */
  file?: {
    sha256: string;
    name?: string;
    media_type?: string;
    width?: number;
    height?: number;
    bytes?: number;
    focus?: number[];
  };
  /** Caption */
  caption?: string;
}
export type Document = ReadEntry<"document", DocumentFields>;

/** Exhibition */
export interface ExhibitionFields {
  /** Title */
  title?: string;
  /** Address */
  slug?: string;
  /** Page */
  page?: ({
    id: string;
    kind: "words";
    fields: {
      /** Text */
      text?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "quote";
    fields: {
      /** What was said */
      said?: string;
      /** By */
      by?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "picture";
    fields: {
      /** Picture */
      picture?: string;
      /** Caption */
      caption?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "beside";
    fields: {
      /** Cells */
      cells?: ({
        id: string;
        kind: "words";
        fields: {
          /** Text */
          text?: string;
          /** Anchor */
          anchor?: string;
          /** Room around it */
          spacing?: "close" | "even" | "wide";
          /** Ground */
          background?: "mist" | "sand";
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
        };
      } | {
        id: string;
        kind: "quote";
        fields: {
          /** What was said */
          said?: string;
          /** By */
          by?: string;
          /** Anchor */
          anchor?: string;
          /** Room around it */
          spacing?: "close" | "even" | "wide";
          /** Ground */
          background?: "mist" | "sand";
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
        };
      } | {
        id: string;
        kind: "picture";
        fields: {
          /** Picture */
          picture?: string;
          /** Caption */
          caption?: string;
          /** Anchor */
          anchor?: string;
          /** Room around it */
          spacing?: "close" | "even" | "wide";
          /** Ground */
          background?: "mist" | "sand";
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
        };
      })[];
    };
  } | {
    id: string;
    kind: "row";
    fields: {
      /** Columns */
      columns?: ({
        id: string;
        kind: "column";
        fields: {
          /** Width in twelfths */
          width?: number;
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
          /** In it */
          content?: ({
            id: string;
            kind: "words";
            fields: {
              /** Text */
              text?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "quote";
            fields: {
              /** What was said */
              said?: string;
              /** By */
              by?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "picture";
            fields: {
              /** Picture */
              picture?: string;
              /** Caption */
              caption?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "listing";
            fields: {
              /** Heading */
              heading?: string;
              /** What it lists */
              list?: {
                rule: Record<string, unknown>;
                items: ({
                  id: string;
                  type: string;
                  locale: string;
                  title: string;
                  date: string;
                  summary: string;
                  path: string | null;
                })[];
              };
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "kept";
            fields: {
              /** Common block */
              block?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          })[];
        };
      })[];
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "listing";
    fields: {
      /** Heading */
      heading?: string;
      /** What it lists */
      list?: {
        rule: Record<string, unknown>;
        items: ({
          id: string;
          type: string;
          locale: string;
          title: string;
          date: string;
          summary: string;
          path: string | null;
        })[];
      };
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "kept";
    fields: {
      /** Common block */
      block?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  })[];
  /** Picture */
  picture?: string;
  /** Opens */
  opens?: {
    wall: string;
    zone: string;
    fold?: "" | "earlier" | "later";
    instant?: string;
  };
  /** Closes */
  closes?: {
    wall: string;
    zone: string;
    fold?: "" | "earlier" | "later";
    instant?: string;
  };
  /** Hours */
  hours?: {
    id: string;
    fields: {
      /** Days */
      days?: string;
      /** From and until */
      hours?: string;
    };
  }[];
  /** Where */
  place?: {
    latitude: number;
    longitude: number;
  };
  /** Tickets */
  tickets?: {
    href: string | null;
    text?: string;
  };
  /** Entry */
  price?: {
    /** Full price */
    full?: number;
    /** Reduced */
    reduced?: number;
  };
  /** Topics */
  topics?: string[];
  /** Light plan */
  light?: unknown;
  /** Working name */
  working_name?: string;
  /** Keep on top */
  pinned?: boolean;
  /** Shown date */
  shown_date?: string;
  /** Title in searches */
  search_title?: string;
  /** Description in searches */
  meta_description?: string;
  /** Sharing picture */
  search_picture?: string;
}
export type Exhibition = ReadEntry<"exhibition", ExhibitionFields>;

/** Page frame */
export interface FrameFields {
  /** Name */
  title?: string;
  /** Beside the text */
  aside?: ({
    id: string;
    kind: "words";
    fields: {
      /** Text */
      text?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "quote";
    fields: {
      /** What was said */
      said?: string;
      /** By */
      by?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "picture";
    fields: {
      /** Picture */
      picture?: string;
      /** Caption */
      caption?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "listing";
    fields: {
      /** Heading */
      heading?: string;
      /** What it lists */
      list?: {
        rule: Record<string, unknown>;
        items: ({
          id: string;
          type: string;
          locale: string;
          title: string;
          date: string;
          summary: string;
          path: string | null;
        })[];
      };
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "kept";
    fields: {
      /** Common block */
      block?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  })[];
  /** Below the text */
  foot?: ({
    id: string;
    kind: "words";
    fields: {
      /** Text */
      text?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "quote";
    fields: {
      /** What was said */
      said?: string;
      /** By */
      by?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "picture";
    fields: {
      /** Picture */
      picture?: string;
      /** Caption */
      caption?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "listing";
    fields: {
      /** Heading */
      heading?: string;
      /** What it lists */
      list?: {
        rule: Record<string, unknown>;
        items: ({
          id: string;
          type: string;
          locale: string;
          title: string;
          date: string;
          summary: string;
          path: string | null;
        })[];
      };
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "kept";
    fields: {
      /** Common block */
      block?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  })[];
}
export type Frame = ReadEntry<"frame", FrameFields>;

/** Front page */
export interface FrontFields {
  /** Title */
  title?: string;
  /** Picture */
  picture?: string;
  /** Opening hours */
  hours?: {
    id: string;
    fields: {
      /** Days */
      days?: string;
      /** From and until */
      hours?: string;
    };
  }[];
  /** Page */
  page?: ({
    id: string;
    kind: "words";
    fields: {
      /** Text */
      text?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "quote";
    fields: {
      /** What was said */
      said?: string;
      /** By */
      by?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "picture";
    fields: {
      /** Picture */
      picture?: string;
      /** Caption */
      caption?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "beside";
    fields: {
      /** Cells */
      cells?: ({
        id: string;
        kind: "words";
        fields: {
          /** Text */
          text?: string;
          /** Anchor */
          anchor?: string;
          /** Room around it */
          spacing?: "close" | "even" | "wide";
          /** Ground */
          background?: "mist" | "sand";
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
        };
      } | {
        id: string;
        kind: "quote";
        fields: {
          /** What was said */
          said?: string;
          /** By */
          by?: string;
          /** Anchor */
          anchor?: string;
          /** Room around it */
          spacing?: "close" | "even" | "wide";
          /** Ground */
          background?: "mist" | "sand";
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
        };
      } | {
        id: string;
        kind: "picture";
        fields: {
          /** Picture */
          picture?: string;
          /** Caption */
          caption?: string;
          /** Anchor */
          anchor?: string;
          /** Room around it */
          spacing?: "close" | "even" | "wide";
          /** Ground */
          background?: "mist" | "sand";
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
        };
      })[];
    };
  } | {
    id: string;
    kind: "row";
    fields: {
      /** Columns */
      columns?: ({
        id: string;
        kind: "column";
        fields: {
          /** Width in twelfths */
          width?: number;
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
          /** In it */
          content?: ({
            id: string;
            kind: "words";
            fields: {
              /** Text */
              text?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "quote";
            fields: {
              /** What was said */
              said?: string;
              /** By */
              by?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "picture";
            fields: {
              /** Picture */
              picture?: string;
              /** Caption */
              caption?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "listing";
            fields: {
              /** Heading */
              heading?: string;
              /** What it lists */
              list?: {
                rule: Record<string, unknown>;
                items: ({
                  id: string;
                  type: string;
                  locale: string;
                  title: string;
                  date: string;
                  summary: string;
                  path: string | null;
                })[];
              };
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "kept";
            fields: {
              /** Common block */
              block?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          })[];
        };
      })[];
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "listing";
    fields: {
      /** Heading */
      heading?: string;
      /** What it lists */
      list?: {
        rule: Record<string, unknown>;
        items: ({
          id: string;
          type: string;
          locale: string;
          title: string;
          date: string;
          summary: string;
          path: string | null;
        })[];
      };
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "kept";
    fields: {
      /** Common block */
      block?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  })[];
  /** Title in searches */
  search_title?: string;
  /** Description in searches */
  meta_description?: string;
  /** Sharing picture */
  search_picture?: string;
}
export type Front = ReadEntry<"front", FrontFields>;

/** Gallery */
export interface GalleryFields {
  /** Title */
  title?: string;
  /** Address */
  slug?: string;
  /** Text */
  body?: string;
  /** Floor */
  floor?: number;
  /** Step-free */
  step_free?: boolean;
  /** Placed below */
  below?: string | {
    entry?: string;
    rank: string;
  };
}
export type Gallery = ReadEntry<"gallery", GalleryFields>;

/** Exhibit label */
export interface LabelFields {
  /** Title */
  title?: string;
  /** Address */
  slug?: string;
  /** Summary */
  summary?: string;
  /** Text */
  body?: string;
  /** Picture */
  picture?: string;
  /** Made by */
  maker?: string;
  /** Accession number */
  number?: string;
  /** Year */
  year?: number;
  /** Topics */
  topics?: string[];
  /** Tags */
  tags?: string[];
  /** Placed in */
  below?: string | {
    entry?: string;
    rank: string;
  };
  /** Working name */
  working_name?: string;
  /** Keep on top */
  pinned?: boolean;
  /** Shown date */
  shown_date?: string;
  /** Title in searches */
  search_title?: string;
  /** Description in searches */
  meta_description?: string;
  /** Sharing picture */
  search_picture?: string;
}
export type Label = ReadEntry<"label", LabelFields>;

/** Sound or film */
export interface MediaFields {
  /** Title */
  title?: string;
  /** File */
  file?: {
    sha256: string;
    name?: string;
    media_type?: string;
    width?: number;
    height?: number;
    bytes?: number;
    focus?: number[];
  };
  /** Captions */
  captions?: {
    sha256: string;
    name?: string;
    media_type?: string;
    width?: number;
    height?: number;
    bytes?: number;
    focus?: number[];
  };
  /** Caption */
  caption?: string;
  /** Credit */
  credit?: string;
}
export type Media = ReadEntry<"media", MediaFields>;

/** Menu */
export interface MenuFields {
  /** Name */
  title?: string;
  /** Items */
  items?: ({
    id: string;
    kind: "item";
    fields: {
      /** Words */
      label?: string;
      /** Leads to */
      to?: {
        href: string | null;
        text?: string;
      };
      /** Below it */
      below?: ({
        id: string;
        kind: "item";
        fields: {
          /** Words */
          label?: string;
          /** Leads to */
          to?: {
            href: string | null;
            text?: string;
          };
        };
      })[];
    };
  })[];
}
export type Menu = ReadEntry<"menu", MenuFields>;

/** Curator's note */
export interface NoteFields {
  /** Title */
  title?: string;
  /** Address */
  slug?: string;
  /** Text */
  body?: string;
  /** About */
  about?: string[];
}
export type Note = ReadEntry<"note", NoteFields>;

/** Visitor notice */
export interface NoticeFields {
  /** Title */
  title?: string;
  /** Address */
  slug?: string;
  /** Text */
  body?: string;
  /** Kind */
  kind?: "opening hours" | "access" | "closure" | "event";
  /** Holds until */
  until?: string;
  /** Out from */
  out_from?: {
    wall: string;
    zone: string;
    fold?: "" | "earlier" | "later";
    instant?: string;
  };
  /** Out until */
  out_until?: {
    wall: string;
    zone: string;
    fold?: "" | "earlier" | "later";
    instant?: string;
  };
  /** About gallery */
  gallery?: string;
  /** Working name */
  working_name?: string;
  /** Keep on top */
  pinned?: boolean;
  /** Shown date */
  shown_date?: string;
}
export type Notice = ReadEntry<"notice", NoticeFields>;

/** Page */
export interface PageFields {
  /** Title */
  title?: string;
  /** Address */
  slug?: string;
  /** Page */
  page?: ({
    id: string;
    kind: "words";
    fields: {
      /** Text */
      text?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "quote";
    fields: {
      /** What was said */
      said?: string;
      /** By */
      by?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "picture";
    fields: {
      /** Picture */
      picture?: string;
      /** Caption */
      caption?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "beside";
    fields: {
      /** Cells */
      cells?: ({
        id: string;
        kind: "words";
        fields: {
          /** Text */
          text?: string;
          /** Anchor */
          anchor?: string;
          /** Room around it */
          spacing?: "close" | "even" | "wide";
          /** Ground */
          background?: "mist" | "sand";
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
        };
      } | {
        id: string;
        kind: "quote";
        fields: {
          /** What was said */
          said?: string;
          /** By */
          by?: string;
          /** Anchor */
          anchor?: string;
          /** Room around it */
          spacing?: "close" | "even" | "wide";
          /** Ground */
          background?: "mist" | "sand";
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
        };
      } | {
        id: string;
        kind: "picture";
        fields: {
          /** Picture */
          picture?: string;
          /** Caption */
          caption?: string;
          /** Anchor */
          anchor?: string;
          /** Room around it */
          spacing?: "close" | "even" | "wide";
          /** Ground */
          background?: "mist" | "sand";
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
        };
      })[];
    };
  } | {
    id: string;
    kind: "row";
    fields: {
      /** Columns */
      columns?: ({
        id: string;
        kind: "column";
        fields: {
          /** Width in twelfths */
          width?: number;
          /** Hidden where the screen is */
          hidden?: "narrow" | "wide";
          /** In it */
          content?: ({
            id: string;
            kind: "words";
            fields: {
              /** Text */
              text?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "quote";
            fields: {
              /** What was said */
              said?: string;
              /** By */
              by?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "picture";
            fields: {
              /** Picture */
              picture?: string;
              /** Caption */
              caption?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "listing";
            fields: {
              /** Heading */
              heading?: string;
              /** What it lists */
              list?: {
                rule: Record<string, unknown>;
                items: ({
                  id: string;
                  type: string;
                  locale: string;
                  title: string;
                  date: string;
                  summary: string;
                  path: string | null;
                })[];
              };
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          } | {
            id: string;
            kind: "kept";
            fields: {
              /** Common block */
              block?: string;
              /** Anchor */
              anchor?: string;
              /** Room around it */
              spacing?: "close" | "even" | "wide";
              /** Ground */
              background?: "mist" | "sand";
              /** Hidden where the screen is */
              hidden?: "narrow" | "wide";
            };
          })[];
        };
      })[];
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "listing";
    fields: {
      /** Heading */
      heading?: string;
      /** What it lists */
      list?: {
        rule: Record<string, unknown>;
        items: ({
          id: string;
          type: string;
          locale: string;
          title: string;
          date: string;
          summary: string;
          path: string | null;
        })[];
      };
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "kept";
    fields: {
      /** Common block */
      block?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  })[];
  /** Beside the text */
  aside?: ({
    id: string;
    kind: "words";
    fields: {
      /** Text */
      text?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "quote";
    fields: {
      /** What was said */
      said?: string;
      /** By */
      by?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "picture";
    fields: {
      /** Picture */
      picture?: string;
      /** Caption */
      caption?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "listing";
    fields: {
      /** Heading */
      heading?: string;
      /** What it lists */
      list?: {
        rule: Record<string, unknown>;
        items: ({
          id: string;
          type: string;
          locale: string;
          title: string;
          date: string;
          summary: string;
          path: string | null;
        })[];
      };
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "kept";
    fields: {
      /** Common block */
      block?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  })[];
  /** Below the text */
  foot?: ({
    id: string;
    kind: "words";
    fields: {
      /** Text */
      text?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "quote";
    fields: {
      /** What was said */
      said?: string;
      /** By */
      by?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "picture";
    fields: {
      /** Picture */
      picture?: string;
      /** Caption */
      caption?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "listing";
    fields: {
      /** Heading */
      heading?: string;
      /** What it lists */
      list?: {
        rule: Record<string, unknown>;
        items: ({
          id: string;
          type: string;
          locale: string;
          title: string;
          date: string;
          summary: string;
          path: string | null;
        })[];
      };
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  } | {
    id: string;
    kind: "kept";
    fields: {
      /** Common block */
      block?: string;
      /** Anchor */
      anchor?: string;
      /** Room around it */
      spacing?: "close" | "even" | "wide";
      /** Ground */
      background?: "mist" | "sand";
      /** Hidden where the screen is */
      hidden?: "narrow" | "wide";
    };
  })[];
  /** Placed below */
  below?: string | {
    entry?: string;
    rank: string;
  };
  /** Working name */
  working_name?: string;
  /** Keep on top */
  pinned?: boolean;
  /** Shown date */
  shown_date?: string;
  /** Title in searches */
  search_title?: string;
  /** Description in searches */
  meta_description?: string;
  /** Sharing picture */
  search_picture?: string;
}
export type Page = ReadEntry<"page", PageFields>;

/** Person */
export interface PersonFields {
  /** Name */
  title?: string;
  /** Address */
  slug?: string;
  /** Life */
  life?: string;
  /** Born */
  born?: number;
  /** Died */
  died?: number;
  /** Portrait */
  portrait?: string;
}
export type Person = ReadEntry<"person", PersonFields>;

/** Picture */
export interface PictureFields {
  /** Title */
  title?: string;
  /** File */
  file?: {
    sha256: string;
    name?: string;
    media_type?: string;
    width?: number;
    height?: number;
    bytes?: number;
    focus?: number[];
  };
  /** Alt text */
  alt?: string;
  /** Caption */
  caption?: string;
  /** Credit */
  credit?: string;
}
export type Picture = ReadEntry<"picture", PictureFields>;

/** Talk */
export interface TalkFields {
  /** Title */
  title?: string;
  /** Address */
  slug?: string;
  /** Text */
  body?: string;
  /** Speakers */
  speakers?: string[];
  /** Day */
  day?: string;
  /** Picture */
  picture?: string;
}
export type Talk = ReadEntry<"talk", TalkFields>;

/** Topic */
export interface TopicFields {
  /** Name */
  title?: string;
  /** Part of */
  below?: string | {
    entry?: string;
    rank: string;
  };
}
export type Topic = ReadEntry<"topic", TopicFields>;

export type AnyEntry = CommonBlock | Document | Exhibition | Frame | Front | Gallery | Label | Media | Menu | Note | Notice | Page | Person | Picture | Talk | Topic;
