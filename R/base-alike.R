# What counts as the same word.

# For comparing names of groups: case and spaces do not matter.
same_spelling <- function(x) tolower(gsub("[[:space:]]+", " ", trimws(x)))

# For comparing answers in words: nor do accents, apostrophes and punctuation, so that "Teils / teils" is "teils-teils". What has no
# letter, such as -9, and signs at the end of a word, such as B+, stay as they are.
same_words <- function(x) {
  x <- same_spelling(x)
  worded <- grepl("[[:alpha:]]", x)
  plain <- chartr(paste(accented$from, collapse = ""), paste(accented$to, collapse = ""), x[worded])
  plain <- gsub("['\u2019\u2018`\u00b4\"\u201c\u201d\u201e]", "", plain)
  plain <- gsub("(?<=[[:alnum:]])\\s*[-/\u2010-\u2015]\\s*(?=[[:alnum:]])", " ", plain, perl = TRUE)
  plain <- gsub("[.,;:!?\u2026()]+", " ", plain)
  x[worded] <- trimws(gsub("[[:space:]]+", " ", plain))
  x
}

# Texts that differ in case or spaces alone, all as most of them are written (n: how often each stands).
one_spelling <- function(text, n = rep(1, length(text))) {
  count <- sort(tapply(n, factor(trimws(text)), sum), decreasing = TRUE)
  names(count)[match(same_spelling(text), same_spelling(names(count)))]
}

# Letters with accents, and without.
accented <- local({
  of <- c(a = "\u00e0\u00e1\u00e2\u00e3\u00e4\u00e5\u0101\u0105", c = "\u00e7\u0107\u010d", d = "\u010f\u0111",
    e = "\u00e8\u00e9\u00ea\u00eb\u0113\u0119\u011b", g = "\u011f",
    i = "\u00ec\u00ed\u00ee\u00ef\u012b\u0131", l = "\u0142\u013a", n = "\u00f1\u0144\u0148", o = "\u00f2\u00f3\u00f4\u00f5\u00f6\u00f8\u0151",
      r = "\u0159", s = "\u015b\u0161\u015f",
    t = "\u0165", u = "\u00f9\u00fa\u00fb\u00fc\u016b\u016f\u0171", y = "\u00fd\u00ff", z = "\u017a\u017c\u017e")
  from <- strsplit(of, "")
  list(from = unlist(from, use.names = FALSE), to = rep(names(of), lengths(from)))
})
