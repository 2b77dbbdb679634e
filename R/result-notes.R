# Notes of a result: records that programs find by code, with what they are about.

# One note. code: its name; words: a message (message_of()), or the sentence; items: the items, factors, subscales or steps it names; ...: its
# numbers by name; rank: 1 for what forbids or changes the reading of the result, 2 for what to look at, 3 for how
# the figures are to be read. Several notes of one code: words of that length, items a list.
note <- function(code, words, items = character(), ..., rank = 2L) {
  if (inherits(words, "sw_message")) words <- list(words)
  several <- length(words) != 1
  numbers <- list(...)
  lapply(seq_along(words), function(i) {
    list(code = code, rank = rank, words = say(words[[i]], "en"), said = words[[i]], items = as.character(if (several) items[[i]] else unlist(items)),
      numbers = if (several) lapply(numbers, `[[`, i) else numbers)
  })
}

# Notes as a table: code, rank, words, items, numbers. Words alone are notes that only speak.
note_table <- function(notes) {
  if (is.character(notes)) notes <- note("said", notes, as.list(rep("", length(notes))), rank = 3L)
  notes <- Filter(function(one) nzchar(one$words), notes)
  plain_table(
    code = vapply(notes, `[[`, "", "code"), rank = vapply(notes, function(one) as.integer(one$rank), 0L),
    words = vapply(notes, `[[`, "", "words"), items = lapply(notes, `[[`, "items"), numbers = lapply(notes, `[[`, "numbers"),
    said = lapply(notes, `[[`, "said")
  )
}

# Texts of messages, one each.
all_said <- function(said, language = "en") vapply(said, say, "", language = language)

# What each note says, as a message where it is one; results of former versions hold words only.
said_in_notes <- function(noted) if (is.null(noted$said)) as.list(noted$words) else noted$said

# The words of a result's notes of a code; none where it has no such note.
notes_of <- function(x, code) x$noted$words[x$noted$code %in% code]

# The result with further notes, in front or at the end.
with_notes <- function(x, notes, first = FALSE) {
  more <- note_table(notes)
  x$noted <- if (first) rbind(more, x$noted) else rbind(x$noted, more)
  x$notes <- x$noted$words
  x
}
