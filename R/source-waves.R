# Waves of one person side by side, put there by the database: for tables that do not give single people at once.

# The rows of those in use: person, wave (its number, 0 for another), groups g1, ..., weight and cluster d1, ..., keyed answers x1, ...
person_rows_sql <- function(survey, connection, items, across, waves, by, design) {
  raw <- raw_cells(survey, across)
  number <- match(as.character(labelled_values(survey$source, across, raw)), waves)
  of_wave <- paste("WHEN", vapply(seq_along(waves), function(w) {
    condition_sql(survey$source, connection, list(column = across, values = raw[number %in% w]))
  }, ""), "THEN", seq_along(waves), collapse = " ")
  known <- paste0("CASE WHEN ", quoted_names(connection, survey$id), " IS NULL THEN 0 ELSE CASE ", of_wave, " ELSE 0 END END")
  named <- c(paste(quoted_names(connection, survey$id), "AS person"), paste(known, "AS wave"),
    paste(vapply(by, function(column) cell_sql(survey$source, connection, column), ""), "AS", paste0("g", seq_along(by)), recycle0 = TRUE),
    paste(quoted_names(connection, design), "AS", names(design), recycle0 = TRUE))
  apart_sql(survey, connection, items, keying_of(survey, items), rep(0, length(items)), named)
}

# How many persons, or persons and waves, there are of whose rows a condition holds.
people_having <- function(connection, rows, what, having) {
  as.numeric(ask(connection, paste0("SELECT count(*) FROM (SELECT 1 AS one FROM ", rows, " WHERE wave > 0 GROUP BY ", what, " HAVING ", having,
    ") AS s"))[[1]])
}

# Somebody twice in a wave, or in two groups; how many only where they are as many as may be told.
refuse_unclear_people <- function(connection, rows, groups, by, least) {
  count <- function(what, having) people_having(connection, rows, what, having)
  twice <- count("person, wave", "count(*) > 1")
  if (twice > 0) stop_input(message_of("e_somebody_two_rows"), faults = if (twice >= least) count_of_each(twice))
  moved <- vapply(groups, function(group) count("person", paste0("count(DISTINCT ", group, ") > 1")), 0)
  if (any(moved > 0)) {
    told <- moved > 0 & moved >= least
    stop_moved_people(messages_of("people_moved", by = by[told], people = moved[told]))
  }
}

stop_moved_people <- function(faults) {
  stop_input(message_of("e_some_people_one"), faults = faults, hint = message_of("e_compare_groups_within"))
}

# The codebook of such a table: keyed answers, from lowest to highest.
beside_book <- function(survey, items, named, waves) {
  keying <- keying_of(survey, items)
  ends <- vapply(seq_along(items), function(j) range(keying$shift[j] + keying$sign[j] * survey$source$readings[[items[j]]]$answers), numeric(2))
  sw_codebook(data.frame(item = named, scale = "waves", lowest = rep(ends[1, ], waves), highest = rep(pmax(ends[2, ], ends[1, ] + 1), waves)))
}
