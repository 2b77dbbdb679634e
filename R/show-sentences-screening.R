# Sentences for a paper about the items, how people answered, and bias.

#' @export
sentences.sw_screening <- function(x) {
  items <- x$tables$items
  flagged <- unique(x$tables$flags$item)
  gaps <- items$missing / pmax(items$n + items$missing, 1)
  little <- x$tables$missing_test
  Filter(Negate(is.null), list(
    message_of("items_were_screened", items = nrow(items), n = x$about$n, bound = limit(x$limits, "item_rest_r")$bound),
    if (any(items$missing > 0)) message_of("share_missing", low = min(gaps), high = max(gaps)),
    if (NROW(little) > 0 && !is.na(little$p.value[1])) message_of("little_gave", df = little$df[1], chi_square = little$statistic[1],
      p = little$p.value[1]),
    if (length(flagged) == 0) message_of("none_was_flagged") else message_of("were_flagged", items = flagged)
  ))
}

#' @export
sentences.sw_keying <- function(x) {
  wrong <- x$tables$items$item[x$tables$items$agrees == "no"]
  list(message_of("keying_was_held_against"),
    if (length(wrong) == 0) message_of("none_shown_against_codebook") else message_of("are_against_codebook", items = wrong))
}

#' @export
sentences.sw_answering <- function(x) {
  Filter(Negate(is.null), list(
    message_of("careless_looked_for", indices = messages_of("a_term", term = x$tables$indices$index)),
    if (is.null(x$parts$judged)) message_of("cases_answered_careless", all = nrow(x$parts$flags), straight = sum(x$parts$straight),
      random = sum(x$parts$random)),
    if (is.numeric(x$about$options$at_least)) message_of("cases_had_flags", flagged = length(x$parts$flagged_rows), flags =
      x$about$options$at_least),
    if (any(x$parts$broke_off)) message_of("cases_broke_off", off = sum(x$parts$broke_off)),
    message_of("none_left_out_for_it")
  ))
}

#' @export
sentences.sw_option_curves <- function(x) {
  items <- length(unique(x$tables$curves$item))
  flagged <- unique(x$tables$flags$item)
  list(if (length(flagged) == 0) message_of("options_none_flagged", items = items, bands = x$about$options$bands) else
    message_of("options_flagged", items = items, bands = x$about$options$bands, flagged = flagged))
}

#' @export
sentences.sw_dif <- function(x) {
  items <- x$tables$items
  flagged <- items[items$flagged %in% TRUE, ]
  groups <- x$tables$groups
  options <- x$about$options
  power <- stats::median(items$power, na.rm = TRUE)
  adjust <- switch(options$adjust, holm = message_of("adjusted_holm"), BH = message_of("adjusted_bh"), message_of("not_adjusted"))
  Filter(Negate(is.null), list(
    message_of("dif_examined", by = options$by, groups = messages_of("group_n", group = groups$group, n = groups$n), reference = options$reference,
      tests = messages_of("test_of", author = unique(items$test)), count = 2 * nrow(items), adjust = adjust),
    if (!is.na(power)) message_of("dif_power_was", power = power),
    if (nrow(flagged) == 0) message_of("none_was_flagged") else
      message_of("were_flagged", items = messages_of("name_with", name = flagged$item, what = bias_messages(flagged)))
  ))
}

#' @export
sentences.sw_factorability <- function(x) {
  overall <- x$tables$overall
  list(message_of("adequacy_was", adequacy = overall$value[1], df = overall$df[2], chi_square = overall$value[2], p = overall$p.value[2],
    n = x$about$n))
}

#' @export
sentences.sw_stability <- function(x) {
  table <- x$tables$factors
  half <- x$about$n %/% 2
  if (any(table$verdict_reason %in% "few_solutions")) {
    return(list(message_of("halves_gave_nothing", half = half)))
  }
  expected <- if (!anyNA(table$congruence_expected)) message_of("would_be_expected", congruence = table$congruence_expected)
  list(message_of("explored_in_halves", halves = x$about$options$halves, half = half, congruence = table$congruence, expected = expected))
}
