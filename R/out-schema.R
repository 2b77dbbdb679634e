# A value against a JSON Schema, as far as our plans use it: type, properties, required,
# additionalProperties, items, minItems, enum, minimum, maximum, minLength, anyOf.

# Faults as a list of list(path, text); none when the value fits.
schema_faults <- function(value, schema, path = character()) {
  if (!is.null(schema$anyOf)) {
    return(any_of_faults(value, schema$anyOf, path))
  }
  fault <- function(text) list(list(path = path, text = text))
  if (!is.null(schema$type) && !any(vapply(unlist(schema$type), is_of_type, TRUE, value = value))) {
    return(fault(worded("fault_must_be", what = type_words(schema), value = shown_value(value), near = NULL)))
  }
  if (!is.null(schema$enum) && !value %in% unlist(schema$enum)) {
    return(fault(worded("fault_must_be", what = or_list(unlist(schema$enum)), value = shown_value(value),
      near = did_you_mean(as.character(value), unlist(schema$enum)))))
  }
  c(
    lapply(bound_faults(value, schema), function(text) list(path = path, text = text)),
    if (identical(schema$type, "object")) object_faults(value, schema, path),
    if (identical(schema$type, "array")) array_faults(value, schema, path)
  )
}

bound_faults <- function(value, schema) {
  c(
    if (is.numeric(value) && !is.null(schema$minimum) && !isTRUE(value >= schema$minimum)) worded("fault_or_more", least = schema$minimum,
      value = value),
    if (is.numeric(value) && !is.null(schema$maximum) && !isTRUE(value <= schema$maximum)) worded("fault_or_less", most = schema$maximum,
      value = value),
    if (is.character(value) && !is.null(schema$minLength) && nchar(value) < schema$minLength) worded("fault_empty")
  )
}

# The faults of the alternative that comes nearest: same type, fewest faults.
any_of_faults <- function(value, options, path) {
  found <- lapply(options, function(one) schema_faults(value, one, path))
  if (any(lengths(found) == 0)) {
    return(NULL)
  }
  inner <- vapply(found, function(f) any(lengths(lapply(f, `[[`, "path")) > length(path)), TRUE)
  if (any(inner)) {
    return(found[[which(inner)[1]]])
  }
  detailed <- vapply(options, function(one) !is.null(one$enum), TRUE)
  if (is.character(value) && any(detailed)) {
    return(found[[which(detailed)[1]]])
  }
  list(list(path = path, text = worded("fault_must_be", what = or_list(unique(vapply(options, type_words, ""))), value = shown_value(value),
    near = NULL)))
}

unknown_hint <- function(key, known) {
  if (grepl("pass|pwd|secret|user", key, ignore.case = TRUE)) {
    return(worded("fault_password"))
  }
  did_you_mean(key, known)
}

object_faults <- function(value, schema, path) {
  known <- names(schema$properties)
  absent <- setdiff(unlist(schema$required), names(value))
  open <- schema$additionalProperties
  unknown <- if (identical(open, FALSE)) setdiff(names(value), known)
  c(
    lapply(unknown, function(key) {
      list(path = c(path, key), unknown = TRUE, text = worded("fault_unknown_key", key = key, near = unknown_hint(key, known)))
    }),
    lapply(absent, function(key) list(path = path, text = worded("fault_key_missing", key = key))),
    unlist(lapply(intersect(names(value), known), function(key) schema_faults(value[[key]], schema$properties[[key]], c(path, key))),
      recursive = FALSE),
    if (is.list(open)) unlist(lapply(setdiff(names(value), known), function(key) schema_faults(value[[key]], open, c(path, key))), recursive = FALSE)
  )
}

array_faults <- function(value, schema, path) {
  c(
    if (!is.null(schema$minItems) && length(value) < schema$minItems) list(list(path = path, text = worded("fault_empty"))),
    unlist(lapply(seq_along(value), function(i) schema_faults(value[[i]], schema$items, c(path, i))), recursive = FALSE)
  )
}

# A single value is no array.
is_of_type <- function(type, value) {
  one <- length(value) == 1 && is.null(names(value)) && !is.list(value)
  switch(type,
    string = one && is.character(value), number = one && is.numeric(value), boolean = one && is.logical(value),
    integer = one && is.numeric(value) && value == round(value), object = is.list(value) && !is.null(names(value)),
    array = is.null(names(value)) && (is.list(value) || length(value) > 1)
  )
}

type_words <- function(schema) {
  if (!is.null(schema$enum)) {
    return(or_list(unlist(schema$enum)))
  }
  or_list(vapply(unlist(schema$type), function(type) worded(paste0("type_", type)), ""))
}

or_list <- function(x) worded("one_of", values = as.character(x))

shown_value <- function(value) {
  if (is.null(value)) worded("type_nothing") else if (is.list(value) || length(value) > 1)
    worded(if (is.null(names(value))) "type_array" else "type_object") else
    if (!is.character(value)) tolower(format(value)) else
      if (grepl("^[0-9]+,[0-9]+$", value)) worded("value_with_comma", value = value, better = sub(",", ".", value, fixed = TRUE)) else
      worded("in_quotes", name = value)
}

# The line of a YAML file in which a key, or an entry of a list, stands; the nearest one above it
# where it is not found.
yaml_line <- function(lines, path) {
  from <- 1
  to <- length(lines)
  found <- NA_integer_
  indent <- -1
  for (key in path) {
    rows <- seq(from, max(from, to))
    if (grepl("^[0-9]+$", key)) {
      at <- rows[grepl("^\\s*-( |$)", lines[rows])]
      at <- at[as.integer(key)]
    } else {
      pattern <- paste0("^[\\s-]*[\"']?\\Q", key, "\\E[\"']?\\s*:")
      at <- rows[grepl(pattern, lines[rows], perl = TRUE)][1]
    }
    if (is.na(at)) break
    found <- at
    depth <- attr(regexpr("^[\\s-]*", lines[at], perl = TRUE), "match.length")
    below <- seq_along(lines) > at & nzchar(trimws(lines)) & !grepl("^\\s*#", lines)
    ends <- which(below & attr(regexpr("^\\s*", lines), "match.length") <= max(depth - 2 * grepl("^\\s*-", lines[at]), 0) & !grepl("^\\s*-", lines))
    from <- at
    to <- if (length(ends) > 0) ends[1] - 1 else length(lines)
    if (!grepl("^[0-9]+$", key)) from <- min(at + 1, length(lines))
    if (grepl(":\\s*[\\[{]", lines[at])) break
  }
  found
}
