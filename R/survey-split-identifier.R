# Halves by identifiers: each has a number from 0 to 1 that follows from it and the seed alone, whatever the order of the rows, who else is there,
# and where the answers are. The characters' codes are weighed by random numbers modulo a prime (Carter & Wegman, 1979), in whole numbers that a
# database has, too.

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

split_by_identifier <- function(survey, share, seed) {
  if (is.null(survey$id)) stop_input(message_of("e_split_identifiers_needs"), hint = message_of("e_name_their_column"))
  if (inherits(survey$source, "sums_source")) {
    half <- function(from, to) take_where(survey, list(hash = list(column = survey$id, seed = seed), from = from, to = to))
    return(list(calibration = half(0, share), validation = half(share, 1)))
  }
  first <- identifier_numbers(identifier_text(source_column(survey, survey$id)), seed) < share
  list(calibration = take_cases(survey, which(first)), validation = take_cases(survey, which(!first)))
}
