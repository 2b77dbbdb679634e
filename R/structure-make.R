#' Say which item belongs to which factor
#'
#' @param ... Factors, as `name = c("item", ...)`; or one of: a codebook or
#'   survey (its subscales become factors), an exploration (its clear loadings),
#'   a path to a YAML file with the keys `factors`, `pairs`, `unlinked`, `higher`, `fixed`,
#'   `equal`, `bounds` and `means`.
#' @param cutoff For an exploration: the smallest loading, in absolute value,
#'   that makes an item belong to a factor. Each item goes to the factor on
#'   which it loads most; items below the cutoff are left out.
#' @return A `sw_structure`: a list with `factors` (named list of items),
#'   `pairs`, `unlinked`, `higher`, `fixed`, `equal`, `bounds`, `means`, `reversed` (the items that the codebook
#'   reverses, where it is made from one) and, when it comes from an exploration,
#'   `explored` (which cases were explored). It is data, never code.
#' @section Errors: `scalewort_error_structure` for a factor without items or
#'   name, an item named twice in a factor, or an unreadable file.
#' @examples
#' sw_structure(calm = c("calm1", "calm2", "calm3"), craft = c("craft1", "craft2", "craft4"))
#' sw_structure(sw_demo("plotholders")) |> sw_add_pair("craft5", "craft6")
#' @export
sw_structure <- function(..., cutoff = .40) {
  parts <- list(...)
  if (length(parts) == 1 && is.null(names(parts))) {
    return(structure_from(parts[[1]], check_number(cutoff, "cutoff", 0, 1)))
  }
  new_structure(parts)
}

structure_from <- function(x, cutoff) {
  if (inherits(x, "sw_structure")) {
    x
  } else if (inherits(x, "sw_codebook")) {
    of_codebook(new_structure(Filter(length, codebook_scales(x))), x)
  } else if (has_answers(x)) {
    of_codebook(new_structure(survey_scales(x)), x)
  } else if (inherits(x, "sw_exploration")) {
    structure_from_exploration(x, cutoff)
  } else if (is.character(x) && length(x) == 1 && grepl("\\.ya?ml$", x, ignore.case = TRUE)) {
    structure_from_yaml(x)
  } else if (is.list(x) && !is.null(names(x))) {
    new_structure(x)
  } else {
    stop_structure(message_of("e_structure_made_named", x = what_is(x)), hint = message_of("e_example_sw_structure"))
  }
}

# A structure remembers which of its items the codebook calls reversed.
of_codebook <- function(structure, x) {
  structure$reversed <- intersect(structure_items(structure), reversed_items(x))
  structure
}

structure_from_exploration <- function(x, cutoff) {
  pattern <- x$parts$pattern
  home <- max.col(abs(pattern), ties.method = "first")
  clear <- abs(pattern[cbind(seq_len(nrow(pattern)), home)]) >= cutoff
  factors <- lapply(seq_len(ncol(pattern)), function(k) rownames(pattern)[clear & home == k])
  out <- new_structure(Filter(length, stats::setNames(factors, colnames(pattern))))
  out$explored <- x$parts$origin
  out <- with_left_out(out, rownames(pattern)[!clear], "unclear")
  out$crossing <- crossing_words(pattern, home, clear, cutoff)
  out
}

# Items that a structure leaves out, each with why: "unclear" (no loading was), "nowhere" (every loading's upper limit was too low), "alone" (no other
# item stayed on its factor), or else the words of whoever decided it, "" where none were given.
with_left_out <- function(structure, items, why) {
  structure$left_out <- union(structure$left_out, items)
  structure$left_why[items] <- why
  structure
}

# Who left which items out, in sentences.
left_out_messages <- function(structure) {
  items <- structure$left_out
  if (length(items) == 0) {
    return(list())
  }
  why <- structure$left_why[items]
  why[is.na(why)] <- "unclear"
  unname(lapply(split(items, factor(why, unique(why))), function(own) {
    reason <- why[match(own[1], items)]
    switch(reason, unclear = message_of("left_out_unclear", items = own), nowhere = message_of("left_out_nowhere", items = own),
      alone = message_of("left_out_alone", items = own),
      message_of("left_out_decided", reason = if (nzchar(reason)) reason else no_reason, items = own))
  }))
}

left_out_sentences <- function(structure) vapply(left_out_messages(structure), say, "")

# Items that reach the cutoff on a second factor, too, in words.
crossing_words <- function(pattern, home, clear, cutoff) {
  also <- abs(pattern) >= cutoff
  also[cbind(seq_len(nrow(pattern)), home)] <- FALSE
  at <- which(also & clear, arr.ind = TRUE)
  wordings("also_loads_on", item = rownames(pattern)[at[, 1]], factor = colnames(pattern)[at[, 2]], loading = unname(pattern[at]))
}

structure_from_yaml <- function(path) {
  content <- read_yaml(path, "structure")$content
  known <- c("factors", "pairs", "unlinked", "higher", "fixed", "equal", "bounds", "means")
  unknown <- setdiff(names(content), known)
  if (!is.list(content) || is.null(content$factors) || length(unknown) > 0) {
    stop_structure(message_of("e_structure_cannot_used", path = path),
      faults = c(if (!is.list(content) || is.null(content$factors)) list(message_of("e_key_factors_missing")), messages_of("e_unknown_key",
        unknown = unknown, unknown_too = vapply(unknown, did_you_mean, "", known = known))), hint = message_of("e_write_factors_then"))
  }
  tryCatch(structure_of_content(content), scalewort_error = function(e) stop(e), error = function(e) {
    stop_structure(message_of("e_structure_cannot_used_some", path = path), faults = first_sentence(cli::ansi_strip(conditionMessage(e))),
      hint = message_of("e_pairs_two_items"))
  })
}

structure_of_content <- function(content) {
  out <- new_structure(content$factors)
  for (pair in content$pairs) out <- sw_add_pair(out, pair[[1]], pair[[2]])
  for (name in names(content$higher)) out <- sw_add_higher(out, name, unlist(content$higher[[name]]))
  for (pair in content$unlinked) out <- sw_unlink(out, pair[[1]], pair[[2]])
  for (one in content$fixed) out <- do.call(sw_fix, c(list(out), one))
  for (group in content$equal) out <- do.call(sw_equate, c(list(out), lapply(group, unlist)))
  for (one in content$bounds) out <- do.call(sw_constrain, c(list(out), one))
  if (!is.null(content$means)) {
    out <- sw_add_means(out, unlist(content$means$factors), unlist(content$means$intercepts), lapply(content$means$equal, unlist))
  }
  out
}

new_structure <- function(factors) {
  check_factors(factors)
  factors <- lapply(factors, as.character)
  structure(list(
    factors = factors, pairs = list(), unlinked = list(), higher = list(), fixed = list(), equal = list(), bounds = list(), means = NULL,
      explored = NULL, left_out = character(), left_why = character()
  ), class = "sw_structure")
}

check_factors <- function(factors) {
  if (length(factors) == 0) stop_structure(message_of("e_structure_needs_at"))
  label <- names(factors)
  if (is.null(label)) label <- rep("", length(factors))
  text <- vapply(factors, function(x) is.character(unlist(x)) && !anyNA(unlist(x)), TRUE)
  twice <- vapply(factors, function(x) anyDuplicated(unlist(x)) > 0, TRUE)
  faults <- c(
    messages_of("factor_no_name", factor = which(label == "")),
    messages_of("factor_twice", factor = unique(label[duplicated(label) & label != ""])), messages_of("factor_no_list", factor = label[!text]),
    messages_of("factor_item_twice", factor = label[text & twice])
  )
  if (length(faults) > 0) stop_structure(message_of("e_structure_cannot_used_two"), faults = faults)
}

#' Say more about a structure
#'
#' `sw_add_pair()` lets the residuals of two items covary, `sw_add_loading()`
#' lets an item load on a further factor, `sw_unlink()` makes two factors
#' uncorrelated.
#'
#' @param structure A [sw_structure()].
#' @param item,other Names of items (of factors, for `sw_unlink()`).
#' @param factor Name of a factor.
#' @return The structure with that one thing added.
#' @section Errors: `scalewort_error_structure` for an unknown item or factor, or
#'   something said already.
#' @examples
#' sw_structure(sw_demo("plotholders")) |>
#'   sw_add_pair("craft5", "craft6") |>
#'   sw_add_loading("kin5", "craft") |>
#'   sw_unlink("calm", "kinship")
#' @export
sw_add_pair <- function(structure, item, other) {
  check_class(structure, "sw_structure", "structure", "`sw_structure()`")
  check_in_structure(c(item, other), structure_items(structure), "item")
  structure$pairs <- add_once(structure$pairs, item, other)
  structure
}

#' @rdname sw_add_pair
#' @export
sw_add_loading <- function(structure, item, factor) {
  check_class(structure, "sw_structure", "structure", "`sw_structure()`")
  # The order of a former version.
  if (is.character(item) && isTRUE(item %in% names(structure$factors)) && !isTRUE(factor %in% names(structure$factors))) {
    tell_former(message_of("former_order", call = "sw_add_loading(item, factor)"))
    return(sw_add_loading(structure, factor, item))
  }
  check_in_structure(factor, names(structure$factors), "factor")
  check_string(item, "item")
  if (item %in% structure$factors[[factor]]) {
    stop_structure(message_of("e_item_belongs_factor", item = item, factor = factor))
  }
  structure$factors[[factor]] <- c(structure$factors[[factor]], item)
  structure
}

#' @rdname sw_add_pair
#' @export
sw_unlink <- function(structure, item, other) {
  check_class(structure, "sw_structure", "structure", "`sw_structure()`")
  check_in_structure(c(item, other), names(structure$factors), "factor")
  structure$unlinked <- add_once(structure$unlinked, item, other)
  structure
}

check_in_structure <- function(x, known, what) {
  unknown <- setdiff(as.character(x), known)
  if (length(unknown) > 0) {
    stop_structure(message_of("e_structure_no_such", what = what), faults = paste0(quoted(unknown), vapply(unknown, did_you_mean, "", known = known)))
  }
}

add_once <- function(pairs, one, other) {
  if (one == other) stop_structure(message_of("e_cannot_paired_itself", one = one))
  key <- function(pair) paste(sort(pair), collapse = "\r")
  if (key(c(one, other)) %in% vapply(pairs, key, "")) {
    stop_structure(message_of("e_pair_there_already", one = one, other = other))
  }
  c(pairs, list(c(one, other)))
}

structure_items <- function(structure) unique(unlist(structure$factors, use.names = FALSE))

# All factors: those of items first, then those above them.
structure_factor_names <- function(structure) c(names(structure$factors), names(structure$higher))
