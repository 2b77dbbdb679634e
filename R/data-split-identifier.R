# Halves by identifiers: each has a number from 0 to 1 that follows from it and the seed alone, whatever the order of the rows, who else is there,
# and where the answers are. The characters' codes are weighed by random numbers modulo a prime (Carter & Wegman, 1979), in whole numbers that a
# database has, too.

identifier_prime <- 2147483647
identifier_length <- 40L

identifier_weights <- function(seed) with_seed(seed, floor(stats::runif(identifier_length + 1) * (identifier_prime - 1)) + 1)

# Numbers of identifiers, as text.
identifier_numbers <- function(id, seed) {
  weights <- identifier_weights(seed)
  text <- substr(ifelse(is.na(id), "", id), 1, identifier_length)
  known <- unique(text)
  number <- vapply(known, function(one) {
    code <- utf8ToInt(one)
    sum((code * weights[seq_along(code)]) %% identifier_prime) + weights[identifier_length + 1]
  }, 0)
  (number %% identifier_prime)[match(text, known)] / identifier_prime
}

# Identifiers as a database writes them.
identifier_text <- function(id) {
  if (is.numeric(id)) ifelse(is.na(id), NA, format(id, scientific = FALSE, trim = TRUE, digits = 15)) else as.character(id)
}

# The same in a statement: is the number at least `from` and below `to`?
hash_sql <- function(source, connection, condition) {
  hash <- condition$hash
  weights <- format(identifier_weights(hash$seed), scientific = FALSE, trim = TRUE)
  engine <- source$table$engine
  text <- paste0("CAST(", quoted_names(connection, hash$column), " AS ", text_type(source$table), ")")
  code <- if (engine == "PostgreSQL") "ascii" else "unicode"
  whole <- if (engine == "SQLite") "INTEGER" else "bigint"
  k <- seq_len(identifier_length)
  terms <- paste0("CASE WHEN length(", text, ") >= ", k, " THEN CAST(", code, "(substr(", text, ", ", k, ", 1)) AS ", whole, ") * ", weights[k],
    " ELSE 0 END", collapse = " + ")
  number <- paste0("((", terms, " + ", weights[identifier_length + 1], ") % ", format(identifier_prime, scientific = FALSE), ")")
  bound <- function(share) format(ceiling(share * identifier_prime), scientific = FALSE)
  paste0(number, " >= ", bound(condition$from), " AND ", number, " < ", bound(condition$to))
}

split_by_identifier <- function(survey, share, seed) {
  if (is.null(survey$id)) stop_input(message_of("e_split_identifiers_needs"), hint = message_of("e_name_their_column"))
  if (inherits(survey$source, "sums_source")) {
    half <- function(from, to) take_where(survey, list(hash = list(column = survey$id, seed = seed), from = from, to = to))
    return(list(calibration = half(0, share), validation = half(share, 1)))
  }
  first <- identifier_numbers(identifier_text(source_column(survey, survey$id)), seed) < share
  list(calibration = take_cases(survey, which(first)), validation = take_cases(survey, which(!first)))
}
