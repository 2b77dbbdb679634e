# The survey that a result rests on, by reference: while the answers are in memory they are found; a result
# that is saved carries none of them.

# Every source of this session, as long as something else holds it. A survey that was saved and read again is
# new to the session.
this_session <- new.env(parent = emptyenv())
# A survey whose source is a reference: what identifies the answers, and a way to them that ends with the session.
# The token keeps the answers alive as long as the result lives, and is an empty thing when it is saved.
held_survey <- function(x) {
  if (!has_answers(x) || inherits(x$source, "held_source")) {
    return(x)
  }
  source <- x$source
  if (is.null(source$way) || is.null(weak_value(source$way))) {
    source$token <- new.env(parent = emptyenv())
    source$way <- weak_reference(source$token, source)
  }
  x$source <- structure(list(hash = source_hash(source), answers = hash_of(source$answers), token = source$token, way = source$way),
    class = "held_source")
  x
}

# The survey behind a result, with its answers; moments, or NULL, where it rests on no survey.
survey_behind <- function(x) {
  source <- x$parts$source
  with_answers(if (has_answers(source) || inherits(source, "sw_moments") || is.null(source)) source else source$x)
}

# A table whose connection is closed gives no answers any more.
still_there <- function(source) !inherits(source, "table_source") || all(vapply(source$table$connections, DBI::dbIsValid, TRUE))

# The survey with its answers: what is behind the reference, or the same answers read again in this session.
with_answers <- function(x) {
  if (!has_answers(x) || !inherits(x$source, "held_source")) {
    return(x)
  }
  found <- weak_value(x$source$way)
  if (is.null(found) || !still_there(found)) {
    same <- function(source) source_hash(source) == x$source$hash && hash_of(source$answers) == x$source$answers && still_there(source)
    found <- Find(same, known_sources())
  }
  if (is.null(found)) {
    stop_input(message_of("e_answers_behind_result"), hint = message_of("e_read_same_answers"))
  }
  x$source <- found
  x
}

known_sources <- local({
  known <- list()
  function(new = NULL) {
    known <<- Filter(function(one) !is.null(weak_key(one)), known)
    if (!is.null(new) && !identical(new$session, this_session)) {
      new$session <- this_session
      known <<- c(known, list(weak_reference(new, NULL)))
    }
    lapply(known, weak_key)
  }
})
