# Whole answers of few options are fetched several in one number, which takes a third of the time: each is a digit of its own base, 0 where it is
# missing.

# list of list(items, low, base: 0 of answers that stand alone, whole), in the order of the items.
packed_items <- function(source, items) {
  readings <- source$readings[items]
  base <- vapply(readings, function(one) if (one$whole && length(one$answers) > 0) diff(range(one$answers)) + 2 else Inf, 0)
  pack <- integer(length(items))
  room <- 0
  for (j in seq_along(items)) {
    fits <- base[j] <= room
    pack[j] <- max(pack) + !fits
    room <- if (fits) room %/% base[j] else if (base[j] <= 100) largest_packed %/% base[j] else 0
  }
  lapply(unname(split(seq_along(items), pack)), function(own) {
    alone <- length(own) == 1
    list(items = items[own], low = if (alone) 0 else vapply(readings[own], function(one) min(one$answers), 0, USE.NAMES = FALSE),
      base = if (alone) 0 else unname(base[own]), whole = readings[[own[1]]]$whole)
  })
}

# As an integer of 32 bits holds it.
largest_packed <- 2^31 - 1

pack_sql <- function(pack, source, connection) {
  answers <- vapply(pack$items, function(item) answer_sql(source, connection, item), "")
  if (length(answers) == 1) {
    return(answers[[1]])
  }
  digits <- paste0("coalesce(", answers, " + ", exact_number(1 - pack$low), ", 0)")
  out <- digits[length(digits)]
  for (j in rev(seq_along(digits)[-length(digits)])) out <- paste0("(", digits[j], " + ", exact_number(pack$base[j]), " * ", out, ")")
  out
}

# The answers in a fetched column: a list by item.
unpacked <- function(x, pack) {
  if (length(pack$items) == 1) {
    return(stats::setNames(list(if (pack$whole) as.integer(x) else as.numeric(x)), pack$items))
  }
  rest <- as.integer(x)
  out <- list()
  for (j in seq_along(pack$items)) {
    base <- as.integer(pack$base[j])
    digit <- rest %% base
    rest <- rest %/% base
    digit[digit == 0L] <- NA
    out[[pack$items[j]]] <- digit + as.integer(pack$low[j] - 1)
  }
  out
}
