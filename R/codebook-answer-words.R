# Words that people find beside the boxes they tick, and what a file says in place of an answer.

# Families of answer words, each with its place from low (0) to high (1). Words at one place mean
# the same step.
known_families <- local({
  placed <- function(...) unlist(lapply(list(...), function(step) stats::setNames(rep(step[[1]], length(step) - 1), unlist(step[-1]))))
  in_order <- function(...) stats::setNames(seq_along(c(...)) / (length(c(...)) + 1), c(...))
  list(
    agreement = placed(
      list(.05, "completely disagree", "totally disagree", "fully disagree"), list(.1, "strongly disagree", "disagree strongly"),
      list(.15, "mostly disagree"), list(.2, "disagree"), list(.25, "moderately disagree"),
      list(.3, "somewhat disagree", "disagree somewhat"),
      list(.35, "rather disagree", "tend to disagree"), list(.4, "slightly disagree", "disagree slightly", "disagree a little"),
      list(.5, "neither agree nor disagree", "neither disagree nor agree", "neither", "neutral", "undecided", "neither nor", "mixed"),
      list(.6, "slightly agree", "agree slightly", "agree a little"), list(.65, "rather agree", "tend to agree"),
      list(.7, "somewhat agree", "agree somewhat"), list(.75, "moderately agree"), list(.8, "agree"), list(.85, "mostly agree"),
      list(.9, "strongly agree", "agree strongly"), list(.95, "completely agree", "totally agree", "fully agree")
    ),
    truth = placed(
      list(.1, "not at all true", "completely false", "very untrue of me", "not at all like me", "definitely false"),
      list(.2, "not true"), list(.25, "mostly false", "mostly untrue", "not much like me"), list(.3, "hardly true"),
      list(.35, "somewhat untrue"), list(.4, "slightly true"), list(.55, "somewhat true", "somewhat like me"), list(.6, "moderately true"),
      list(.75, "mostly true", "mostly like me"), list(.8, "true"),
      list(.9, "very true", "completely true", "exactly true", "very true of me", "very much like me", "definitely true")
    ),
    frequency = in_order("never", "almost never", "very rarely", "rarely", "seldom", "occasionally", "sometimes", "often", "frequently", "usually",
      "very often", "almost always", "always"),
    amount = in_order("not at all", "very little", "a little", "slightly", "somewhat", "moderately", "quite", "quite a bit", "a lot", "very",
      "very much", "a great deal", "extremely"),
    yes = placed(list(1 / 3, "no", "n"), list(2 / 3, "yes", "y")), true = in_order("false", "true"), quality = in_order("very poor", "poor", "fair",
      "good", "very good", "excellent"),
    content = placed(list(.1, "very dissatisfied"), list(.25, "dissatisfied"), list(.35, "somewhat dissatisfied"),
      list(.5, "undecided", "neutral", "neither", "neither satisfied nor dissatisfied"), list(.65, "somewhat satisfied"), list(.75, "satisfied"),
      list(.9, "very satisfied")),
    likely = placed(list(.1, "very unlikely", "extremely unlikely"), list(.25, "unlikely"), list(.5, "neutral", "neither", "undecided"),
      list(.75, "likely"), list(.9, "very likely", "extremely likely")),
    zustimmung = placed(
      list(.05, "stimme \u00fcberhaupt nicht zu", "stimme gar nicht zu"), list(.2, "stimme nicht zu", "lehne ab"),
      list(.35, "stimme eher nicht zu"),
      list(.5, "teils teils", "teils/teils", "teils-teils", "weder noch", "weder/noch", "unentschieden", "neutral"), list(.65, "stimme eher zu"),
      list(.8, "stimme zu"), list(.95, "stimme voll und ganz zu", "stimme voll zu", "stimme v\u00f6llig zu")
    ),
    zutreffen = placed(
      list(.05, "trifft \u00fcberhaupt nicht zu", "trifft gar nicht zu"), list(.2, "trifft nicht zu"),
      list(.35, "trifft eher nicht zu", "trifft kaum zu", "trifft wenig zu"),
      list(.5, "teils teils", "teils/teils", "teils-teils", "trifft teils zu"),
      list(.65, "trifft eher zu"), list(.8, "trifft zu"),
      list(.95, "trifft voll und ganz zu", "trifft voll zu", "trifft genau zu", "trifft v\u00f6llig zu")
    ),
    haeufigkeit = in_order("nie", "fast nie", "selten", "gelegentlich", "manchmal", "h\u00e4ufig", "oft", "meistens",
      "sehr oft", "fast immer", "immer"),
    ja = placed(list(1 / 3, "nein", "n"), list(2 / 3, "ja", "j"))
  )
})

# The same with their words as they are compared.
answer_families <- lapply(known_families, function(family) {
  keys <- same_words(names(family))
  stats::setNames(unname(family)[!duplicated(keys)], keys[!duplicated(keys)])
})

# What stands for no answer.
no_answer_words <- same_words(c("n/a", "not applicable", "don't know", "dont know", "do not know", "no answer", "prefer not to say",
  "prefer not to answer",
  "rather not say", "refused", "skipped", "missing", "no opinion", "i prefer not to answer", "i don't know", "keine angabe",
    "m\u00f6chte ich nicht sagen", "k.a.", "k. a.", "wei\u00df nicht", "keine antwort", "sans r\u00e9ponse", "ne sait pas", "#n/a", "none given"))

# The family that knows all these words, and their places in it; NULL where none does, or where
# two of the words share a place other than the middle: they may be two steps.
answer_family <- function(words) {
  words <- same_words(words)
  for (name in names(answer_families)) {
    places <- answer_families[[name]][words]
    if (!anyNA(places) && !anyDuplicated(outer_places(places, words))) {
      return(list(family = name, places = unname(places)))
    }
  }
  two_languages(words)
}

# One scale asked in two languages: two families that know all words between them, whose steps pair off in order. list(family: "a + b",
# places), NULL where there are none.
two_languages <- function(words) {
  known <- lapply(answer_families, function(family) words %in% names(family))
  some <- names(known)[vapply(known, any, TRUE)]
  if (length(some) < 2) {
    return(NULL)
  }
  pairs <- utils::combn(some, 2, simplify = FALSE)
  for (pair in pairs) {
    if (all(known[[pair[1]]] | known[[pair[2]]]) && any(!known[[pair[1]]]) && any(!known[[pair[2]]])) {
      name <- paste(pair, collapse = " + ")
      places <- family_places(name, words)
      own <- lapply(pair, function(one) places[known[[one]]])
      if (!any(vapply(own, anyDuplicated, 1L) > 0)) {
        return(list(family = name, places = unname(places)))
      }
    }
  }
}

# Places of words in a family, or in two: the steps of one are those of the other.
family_places <- function(name, words) {
  names <- strsplit(name, " + ", fixed = TRUE)[[1]]
  words <- same_words(words)
  if (length(names) == 1) {
    return(answer_families[[name]][words])
  }
  first <- answer_families[[names[1]]][words]
  second <- answer_families[[names[2]]][words]
  ladder <- paired_steps(sort(unique(first[!is.na(first)])), sort(unique(second[!is.na(second)])))
  stats::setNames(ifelse(is.na(first), ladder$second[match(second, ladder$from_second)], ladder$first[match(first, ladder$from_first)]), words)
}

# Which step of one language is which of the other: by rank where both have as many, else each of the shorter ladder's is the nearest of the
# longer's, where that keeps their order; else they stay apart. list(from_first, first, from_second, second).
paired_steps <- function(first, second) {
  swapped <- length(first) < length(second)
  long <- if (swapped) second else first
  short <- if (swapped) first else second
  to <- if (length(long) == length(short)) long else long[vapply(short, function(s) which.min(abs(long - s)), 1L)]
  if (is.unsorted(to, strictly = TRUE)) to <- short
  out <- list(from_first = long, first = long, from_second = short, second = to)
  if (swapped) stats::setNames(out[c(3, 4, 1, 2)], names(out)) else out
}

# The places of different words, but for the middle.
outer_places <- function(places, words) places[!duplicated(words) & places != .5]

# "1 = Never; 2 = Often": words numbered by their place; words at one place share a number.
numbered_words <- function(words, places) {
  words <- words[order(places, words)]
  paste(match(sort(places), sort(unique(places))), words, sep = " = ", collapse = "; ")
}

# Items of a subscale have one set of answers, also where nobody used one of them in some item; and
# a subscale that lacks only outer steps of the family's set in this file has these, too.
share_labels <- function(rows) {
  guessed <- which(grepl("\\blabels\\b", rows$guessed) & rows$role != "aside")
  words <- lapply(rows$labels[guessed], function(text) names(parse_labels(text)))
  # Numbers before words ("1 - never") say for themselves which is which.
  family <- vapply(words, function(w) c(answer_family(w)$family, NA_character_)[1], "")
  for (name in unique(family[!is.na(family)])) {
    mine <- which(family == name)
    whole <- unique_words(unlist(words[mine]))
    mapped <- family_places(name, whole)
    whole_places <- mapped[same_words(whole)]
    for (block in split(mine, ifelse(rows$scale[guessed[mine]] == "", guessed[mine], rows$scale[guessed[mine]]))) {
      own <- mapped[same_words(unlist(words[block]))]
      between <- unique(whole_places[whole_places >= min(own) & whole_places <= max(own)])
      used <- if (setequal(between, own)) whole else unique_words(unlist(words[block]))
      places <- mapped[same_words(used)]
      rows$labels[guessed[block]] <- numbered_words(used, unname(places))
      rows$highest[guessed[block]] <- as.character(length(unique(places)))
    }
  }
  rows
}

# Words of unknown order, "? = word": kept, to be numbered by hand, where three columns or more share
# them; else the column is no item.
settle_unplaced <- function(rows) {
  open <- which(startsWith(rows$labels, "? = "))
  words <- lapply(strsplit(rows$labels[open], "; ", fixed = TRUE), function(parts) same_words(sub("^\\? = ", "", parts)))
  alike <- vapply(words, function(own) sum(vapply(words, function(other) mean(own %in% other) > .5, TRUE)), 1L)
  rows$labels[open[alike < 3]] <- ""
  rows$guessed[open[alike >= 3]] <- "role labels"
  settle_letters(rows)
}

# Single letters are the options of a test where they are the first of the alphabet, or three columns share them; else they name groups.
settle_letters <- function(rows) {
  lettered <- which(rows$options != "" & grepl("options", rows$guessed))
  letters_of <- strsplit(tolower(rows$options[lettered]), " ", fixed = TRUE)
  plain <- vapply(letters_of, function(own) all(own %in% letters[1:6]), TRUE)
  alike <- vapply(letters_of, function(own) sum(vapply(letters_of, function(other) mean(own %in% other) > .5, TRUE)), 1L)
  groups <- lettered[!plain & alike < 3]
  rows$options[groups] <- ""
  rows$guessed[groups] <- "role"
  rows
}

# What stands for no answer in one item does so in all.
share_no_answers <- function(rows) {
  worded <- which(rows$role != "aside" & grepl("\\bmissing\\b", rows$guessed))
  codes <- unique(unlist(lapply(rows$missing[worded], function(text) missing_codes(text)$code)))
  codes <- unique_words(sort(codes[same_words(codes) %in% no_answer_words]))
  if (length(codes) == 0) {
    return(rows)
  }
  for (i in which(rows$role != "aside")) {
    numbers <- missing_codes(rows$missing[i])$code
    numbers <- numbers[!same_words(numbers) %in% no_answer_words]
    rows$missing[i] <- paste(quoted_codes(c(numbers, codes)), collapse = " ")
    rows$guessed[i] <- paste(unique(c(strsplit(rows$guessed[i], " ")[[1]], "missing")), collapse = " ")
  }
  rows
}

# Words that differ only in case or spaces, once: as first written, but in capitals only where all are.
unique_words <- function(words) {
  words <- trimws(words)
  keys <- same_words(words)
  best <- order(match(keys, keys), words == toupper(words))
  words[best[!duplicated(keys[best])]]
}
