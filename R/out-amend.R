# A structure with what a plan's `amend` changes in it, in order.

amended_structure <- function(structure, amendments, survey) {
  for (one in amendments) structure <- amend_structure(structure, one$what, unlist(one$items), one$to, unlist(one$of), survey, one$reason)
  structure
}

amend_structure <- function(structure, what, items = NULL, to = NULL, of = NULL, survey = NULL, reason = NULL) {
  switch(what,
    pair = sw_add_pair(structure, items[1], items[2]),
    loading = sw_add_loading(structure, items, to),
    higher = sw_add_higher(structure, to, if (length(of) > 0) of else names(structure$factors)),
    general = sw_add_general(structure, to),
    wording = sw_add_wording(structure, reversed_items(survey)),
    leave = without_items(structure, items, reason),
    shift = shifted_items(structure, items, to),
    rename = renamed_factor(structure, of, to)
  )
}

without_items <- function(structure, items, reason = NULL) {
  check_in_structure(items, structure_items(structure), "item")
  structure$factors <- Filter(length, lapply(structure$factors, setdiff, items))
  structure$pairs <- Filter(function(pair) !any(pair %in% items), structure$pairs)
  structure <- with_left_out(structure, items, c(reason, "")[1])
  drop_thin_factors(structure)
}

# Items on another factor, taken from wherever they were.
shifted_items <- function(structure, items, to) {
  check_in_structure(to, names(structure$factors), "factor")
  others <- setdiff(names(structure$factors), to)
  structure$factors[others] <- lapply(structure$factors[others], setdiff, items)
  structure$factors[[to]] <- union(structure$factors[[to]], items)
  structure$left_out <- setdiff(structure$left_out, items)
  drop_thin_factors(structure)
}

renamed_factor <- function(structure, of, to) {
  check_in_structure(of, names(structure$factors), "factor")
  check_new_factor(structure, to)
  change <- function(names) ifelse(names == of, to, names)
  names(structure$factors) <- change(names(structure$factors))
  structure$unlinked <- lapply(structure$unlinked, change)
  structure$higher <- lapply(structure$higher, change)
  structure$named <- structure$named[structure$named != of]
  structure$given <- c(setdiff(structure$given, of), to)
  structure
}
