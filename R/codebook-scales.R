# Which items make a subscale, as names and wordings tell it.

# What stands before the part of a name that tells items of one subscale apart: a number, a letter behind a mark ("ab_a"), brackets
# ("Q1[SQ001]"), a single letter behind a number ("q3a"), a word behind a mark ("rest_home") or a colon. "" where there is none.
name_stem <- function(names) {
  names <- trimws(names)
  stem <- rep("", length(names))
  forms <- c("^(.+?)\\s*[\\[({<].+[\\])}>][A-Za-z]?$", "^(.*?)[ _.-]*[0-9]+[A-Za-z]?$", "^(.+?)[_.-][A-Za-z]$", "^(.*?[0-9]+)[ _.-]?[a-z]$",
    "^(.+?)[ _.-]+[0-9]+[_.-].+$", "^(.{2,60}?)\\s*:\\s+\\S.*$", "^([[:alpha:]]{2,})[_.-].+$")
  for (form in forms) {
    fits <- grepl(form, names, perl = TRUE)
    own <- ifelse(fits, sub(form, "\\1", names, perl = TRUE), "")
    size <- table(own[own != ""])
    take <- stem == "" & own %in% names(size)[size >= 3]
    stem[take] <- own[take]
  }
  stem
}

# What a wording begins with, before ":" or a dash: "Pain" of "Pain: it keeps me awake". "" where fewer than two share it.
wording_stem <- function(wordings) {
  form <- "^(.{2,60}?)\\s*(?::|\\s[-\u2013\u2014|])\\s+(?=\\S)(.+)$"
  fits <- grepl(form, wordings, perl = TRUE)
  stem <- ifelse(fits, trimws(sub(form, "\\1", wordings, perl = TRUE)), "")
  ifelse(stem %in% names(which(table(stem[stem != ""]) >= 2)), stem, "")
}

# A subscale for each item: by the stems of names; where wordings of one such block begin with different words, by these; where some of a
# block are answered in other words or another range than the rest, apart from them.
guess_scales <- function(rows, stems = wording_stem(rows$wording)) {
  may <- rows$role != "aside" | rows$options != ""
  scale <- rep("", nrow(rows))
  scale[may] <- name_stem(rows$item[may])
  stems[!may] <- ""
  for (block in unique(c("", scale[may]))) {
    mine <- which(may & scale == block)
    told <- stems[mine]
    if (length(unique(told[told != ""])) >= 2 && mean(told != "") >= .8) scale[mine] <- told
  }
  numbered <- scale != "" & scale %in% names(which(table(scale[scale != ""]) >= 2))
  scale[!numbered] <- ""
  scale <- apart_by_answers(rows, short_names(scale))
  if (all(scale == "")) scale <- alike_neighbours(rows, may)
  guessed <- scale != ""
  rows$scale[guessed] <- scale[guessed]
  rows$guessed[guessed] <- trimws(paste(rows$guessed[guessed], "scale"))
  rows
}

# Where neither names nor wordings tell: neighbours, three at least, that are answered alike.
alike_neighbours <- function(rows, may) {
  kind <- ifelse(rows$labels == "", paste(rows$lowest, rows$highest), vapply(rows$labels, answers_in_words, ""))
  kind[!may | startsWith(rows$labels, "? =") | rows$lowest == ""] <- ""
  run <- rep(seq_along(rle(kind)$lengths), rle(kind)$lengths)
  long <- run %in% which(rle(kind)$lengths >= 3) & kind != ""
  ifelse(long, if (length(unique(run[long])) == 1) "items" else paste0("items", match(run, unique(run[long]))), "")
}

# Whole questions as names of subscales are cut to some words; different ones stay different.
short_names <- function(scale) {
  own <- setdiff(unique(scale), "")
  short <- vapply(own, function(name) {
    name <- trimws(gsub("[[:space:]]+", " ", gsub("[?:;=,\"]+", " ", name)))
    if (nchar(name) <= 40) return(name)
    sub("[[:space:]][^[:space:]]*$", "", substr(name, 1, 40))
  }, "", USE.NAMES = FALSE)
  ifelse(scale == "", "", make.unique(short, sep = " ")[match(scale, own)])
}

# Neighbours of one stem that are answered in other words than the rest make a subscale of their own, three items at least.
apart_by_answers <- function(rows, scale) {
  kind <- ifelse(rows$labels == "", "", vapply(rows$labels, answers_in_words, ""))
  for (block in setdiff(unique(scale), "")) {
    mine <- which(scale == block & kind != "")
    kinds <- table(kind[mine])
    if (length(mine) < sum(scale == block) || length(kinds) < 2 || any(kinds < 3)) next
    scale[mine] <- paste(block, match(kind[mine], unique(kind[mine])))
  }
  scale
}

# The family that words belong to, else the words themselves: items that share either are answered alike.
answers_in_words <- function(labels) {
  words <- trimws(sub("^[^=]*=", "", strsplit(labels, ";", fixed = TRUE)[[1]]))
  family <- answer_family(words)$family
  if (is.null(family)) "words" else family
}

# Where most items are numbered in subscales, a column that stands alone (schooling, income, kept
# as small numbers) is taken for no item; its range stays, should it be one.
set_lone_aside <- function(rows) {
  items <- rows$role != "aside"
  alone <- items & rows$scale == ""
  if (sum(items & !alone) >= max(3, 2 * sum(alone))) {
    rows$role[alone] <- "aside"
    rows$guessed[alone] <- paste(rows$guessed[alone], "role")
  }
  rows
}

# An option that nobody used in one item was there if its neighbours had it:
# guessed ranges widen to those of their subscale.
share_ranges <- function(rows) {
  guessed <- grepl("lowest", rows$guessed) & rows$labels == "" & rows$scale != "" & rows$lowest != ""
  for (scale in unique(rows$scale[guessed])) {
    mine <- guessed & rows$scale == scale
    rows$lowest[mine] <- format_answer(min(as.numeric(rows$lowest[mine])))
    rows$highest[mine] <- format_answer(max(as.numeric(rows$highest[mine])))
  }
  rows
}
