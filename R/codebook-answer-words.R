# Words that people find beside the boxes they tick, and what a file says in place of an answer.

# The table of answer words, inst/tables/answer-words.csv: families (agreement, frequency, ...), each a list of languages, each the places of
# its words from low (0) to high (1). Words at one place mean the same step.
answer_families <- local({
  known <- NULL
  function() {
    if (is.null(known)) {
      words <- shipped_table("answer-words")
      words$key <- answer_keys(words$word)
      words <- words[!duplicated(words[c("family", "language", "key")]), ]
      of_language <- function(own) stats::setNames(as.numeric(own$place), own$key)
      words$language[words$family == "none"] <- "all"
      known <<- lapply(split(words, factor(words$family, unique(words$family))), function(family) {
        lapply(split(family, factor(family$language, unique(family$language))), of_language)
      })
    }
    known
  }
})

# Those that put words in an order.
ordered_families <- function() setdiff(names(answer_families()), "none")

# Words as they are looked up: without the endings of both genders, "satisfecho/a", "zufrieden(e)".
answer_keys <- function(words) same_words(gsub("(?<=[[:alpha:]]{3})(/[aeo]s?|[(][a-z]{1,3}[)])(?![[:alpha:]])", "", words, perl = TRUE))

# What stands for no answer, as words are compared.
no_answer_words <- function() names(answer_families()$none$all)

# The family that knows all these words, and their places in it: list(family, places), NULL where none does, or where two words of one
# language share a place other than the middle: they may be two steps.
answer_family <- function(words) {
  keys <- answer_keys(words)
  for (family in ordered_families()) {
    ladder <- ladder_of(family, keys)
    if (!is.null(ladder) && !anyNA(ladder[keys])) return(list(family = family, places = unname(ladder[keys])))
  }
}

# The family that knows most of these words, three and half of them at least: places, NA for the others.
nearest_family <- function(words) {
  keys <- answer_keys(words)
  ladders <- lapply(ordered_families(), ladder_of, keys = keys)
  known <- vapply(ladders, function(ladder) sum(keys %in% names(ladder)), 1L)
  best <- which.max(known)
  if (known[best] < max(3, length(unique(keys)) / 2)) {
    return(NULL)
  }
  list(family = ordered_families()[best], places = unname(ladders[[best]][keys]))
}

# Places of those of the words that a family knows, in whatever languages; NULL where two of one language share a place.
ladder_of <- function(family, keys) {
  keys <- unique(keys)
  ladder <- numeric()
  repeat {
    left <- setdiff(keys, names(ladder))
    known <- lapply(answer_families()[[family]], function(language) language[names(language) %in% keys])
    new <- vapply(known, function(language) sum(names(language) %in% left), 1L)
    if (length(left) == 0 || max(new) == 0) {
      return(ladder)
    }
    own <- known[[which.max(new)]]
    if (anyDuplicated(own[own != .5])) {
      return(NULL)
    }
    ladder <- joined_ladders(ladder, own)
  }
}

# The steps of one language on those of another.
joined_ladders <- function(ladder, own) {
  if (length(ladder) == 0) {
    return(own)
  }
  steps <- paired_steps(sort(unique(ladder)), sort(unique(own)))
  moved <- function(x, from, to) stats::setNames(to[match(x, from)], names(x))
  own <- moved(own, steps$from_second, steps$second)
  c(moved(ladder, steps$from_first, steps$first), own[setdiff(names(own), names(ladder))])
}

# Which step of one language is which of the other: those next to each other, where all of the shorter ladder, or all but one of as many, find
# one of their own; else by rank where both have as many; else they stay apart. list(from_first, first, from_second, second).
paired_steps <- function(first, second) {
  swapped <- length(first) < length(second)
  long <- if (swapped) second else first
  short <- if (swapped) first else second
  near <- vapply(short, function(step) if (min(abs(long - step)) <= .081) which.min(abs(long - step)) else NA_integer_, 1L)
  alone <- is.na(near)
  to <- ifelse(alone, short, long[near])
  # Of as many steps one may be alone in each, where these are not of one rank: nobody chose the highest here and the lowest there.
  ranks <- length(long) == length(short) && any(alone) && (sum(alone) > 1 || !which(alone) %in% near)
  fits <- !is.unsorted(to, strictly = TRUE) && !ranks && sum(alone) <= length(long) - length(short) + 1
  if (!fits) to <- if (length(long) == length(short)) long else short
  out <- list(from_first = long, first = long, from_second = short, second = to)
  if (swapped) stats::setNames(out[c(3, 4, 1, 2)], names(out)) else out
}

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
    ladder <- ladder_of(name, answer_keys(whole))
    if (is.null(ladder)) next
    whole_places <- ladder[answer_keys(whole)]
    for (block in split(mine, ifelse(rows$scale[guessed[mine]] == "", guessed[mine], rows$scale[guessed[mine]]))) {
      own <- ladder[answer_keys(unlist(words[block]))]
      between <- unique(whole_places[whole_places >= min(own) & whole_places <= max(own)])
      used <- if (setequal(between, own)) whole else unique_words(unlist(words[block]))
      places <- ladder[answer_keys(used)]
      rows$labels[guessed[block]] <- numbered_words(used, unname(places))
      rows$highest[guessed[block]] <- as.character(length(unique(places)))
    }
  }
  rows
}

# Single letters are the options of a test where three columns share them; else they name groups.
settle_letters <- function(rows) {
  lettered <- which(rows$options != "" & rows$answer == "" & grepl("options", rows$guessed))
  letters_of <- strsplit(tolower(rows$options[lettered]), " ", fixed = TRUE)
  alike <- vapply(letters_of, function(own) sum(vapply(letters_of, function(other) mean(own %in% other) > .5, TRUE)), 1L)
  groups <- lettered[alike < 3]
  rows$options[groups] <- ""
  rows$guessed[groups] <- "role"
  rows
}

# What stands for no answer in one item does so in all.
share_no_answers <- function(rows) {
  worded <- which(rows$role != "aside" & grepl("\\bmissing\\b", rows$guessed))
  codes <- unique(unlist(lapply(rows$missing[worded], function(text) missing_codes(text)$code)))
  codes <- unique_words(sort(codes[same_words(codes) %in% no_answer_words()]))
  if (length(codes) == 0) {
    return(rows)
  }
  for (i in which(rows$role != "aside")) {
    numbers <- missing_codes(rows$missing[i])$code
    numbers <- numbers[!same_words(numbers) %in% no_answer_words()]
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
