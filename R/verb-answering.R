#' How people answered: at random, in straight lines, incomplete, extreme
#'
#' Says who answered as if at random or in straight lines, and computes the usual indices of careless answering for every
#' case. It never sets anyone aside by itself.
#'
#' A model of careful people is made from this survey: latent normal answers, cut at the sample's shares, correlated
#' halfway between the sample's latent correlations and those of one factor a subscale (a subscale is a page); people
#' differ in how extreme they answer. By it, each person's answers have a likelihood, and two ratios compare it with that
#' of answers at random and of straight lines (one all along, or one a page, with slips). Their p come from 5,000 drawn
#' careful people; over both p of everybody the false discovery rate is held (Benjamini & Hochberg, 1995; bound
#' `careless_p`, half of it where groups are compared as well), so that in a survey of careful people anybody at all is
#' named with that probability. Who is named does not count in the model, which is made twice. Unanswered items are
#' filled from the model; who answered less than half is not judged. Items of two options and tests cannot tell. The
#' table `rates` says how many straight and random answerers would be seen in this very survey.
#'
#' Variance within pages, longest run, spread, even-odd consistency, contradiction, Mahalanobis distance and time are the usual indices, each with a
#' bound; by themselves they flag many careful people, and name nobody unless `at_least` says how many flags do.
#'
#' @param survey A survey; or a data frame of answers, taken as one scale with its numbers as they are.
#' @param time Names of numeric columns of the data with seconds spent (one, or
#'   one per page, which are summed); `NULL` for none.
#' @param robust Mahalanobis distances from a robust centre and spread (minimum
#'   covariance determinant of the complete cases; needs the package MASS) in place
#'   of maximum likelihood ones.
#' @param at_least Number of flags of the usual indices from which a case is named, too; `NULL`, the default, for none.
#' @param seed Seed of the simulated people.
#' @param limits Bounds that flag, from [sw_limits()].
#' @return A `sw_answering` with the tables `indices` (index, bound, source, number
#'   flagged), `cases` (identifier, every index, number of flags, by what), sorted
#'   with who is named first, `together` (which flags occur together), `sensitivity` (alpha of
#'   each subscale with and without the flagged), `effect` (CFI and RMSEA of the codebook's structure, and the number of factors,
#'   with and without them) and `rates` (kind of answering, share that would be named). Indices: p of answering in a straight line, and at random;
#'   share of items unanswered; variance within pages; longest run of the same answer as given; standard deviation of the
#'   answers as given; even-odd consistency over subscales (Jackson, 1976); contradiction between forward and reversed
#'   items; p of the squared Mahalanobis distance; seconds per item; items left out at the end.
#' @section Errors: `scalewort_error_input` for fewer than three items or a time
#'   column that is not there or not numeric.
#' @examples
#' answering <- sw_answering(sw_demo("plotholders"), time = "seconds")
#' answering
#' tidy(answering, "cases")
#' @export
sw_answering <- function(survey, time = NULL, robust = FALSE, at_least = NULL, seed = 1, limits = sw_limits()) {
  survey <- as_survey(survey)
  check_options("answering")
  items <- analysed_items(survey)
  if (length(items) < 3) stop_input(message_of("e_how_people_answer", items = length(items)))
  # A row of indices for each person, twelve columns at most.
  if (!source_has_rows(survey, 12)) stop_for_rows(survey$source, 12)
  seconds <- seconds_spent(survey, time)
  pages <- answer_pages(survey, items)
  values <- answering_indices(survey, items, seconds, robust, pages)
  level <- limit(limits, "careless_p")$bound / if (length(survey$group) > 0) 2 else 1
  careful <- careless_people(survey, items, pages, level, seed)
  bounds <- careful_bounds(survey, items, careful, pages)
  values <- structure(cbind(careful$p, values), subscales = attr(values, "subscales"))
  flags <- answering_flags(values, items, limits, careful, bounds)
  usual <- rowSums(flags[, setdiff(colnames(flags), c("straight_p", "random_p", "even_odd")), drop = FALSE], na.rm = TRUE)
  voting <- flags[, colnames(flags) != "even_odd", drop = FALSE]
  flagged <- careful$straight | careful$random | if (is.null(at_least)) FALSE else usual >= at_least
  cases <- answering_cases(survey, values, voting, flagged)
  new_result("sw_answering", "title_answering",
    tables = list(
      indices = index_table(flags, values, items, limits, careful, bounds), cases = cases, together = flags_together(voting),
      sensitivity = alpha_without_cases(survey, flagged), effect = if (any(flagged)) fit_without_cases(survey, flagged, seed),
      rates = careless_rates(careful$rates),
      verdicts = answering_verdicts(survey, values, voting, flagged, limits, careful)
    ) |> Filter(f = Negate(is.null)),
    notes = answering_notes(survey, values, flags, flagged, at_least, items, robust, careful),
    n = source_count(survey)$used, n_left_out = source_count(survey)$aside, missing = message_of("missing_each_index"),
    options = list(robust = robust, at_least = if (is.null(at_least)) "none" else at_least, time = if (is.null(time)) "none" else time, seed = seed),
    parts = list(people = repeated_people(survey), flagged_rows = case_rows(survey)[flagged], values = values, flags = voting,
      broke_off = broke_off(values, length(items)),
      straight = careful$straight, random = careful$random, named = flagged, judged = careful$judged),
    limits = limits
  )
}

# Subscales of ordered answers as pages: lists of columns of `items`; all of them as one where there are no subscales.
answer_pages <- function(survey, items) {
  likert <- items[is.na(item_spec(survey, items)$answer)]
  pages <- lapply(survey_scales(survey, c("scored", "tryout")), function(own) match(intersect(own, likert), items))
  pages <- pages[lengths(pages) > 1]
  if (length(pages) == 0 && length(likert) > 2) list(match(likert, items)) else pages
}

page_widths <- function(survey, items) {
  specs <- item_spec(survey, items)
  width <- specs$highest - specs$lowest
  ifelse(is.finite(width) & width > 0, width, 1)
}

# What would be named of each kind of careless people.
careless_rates <- function(rates) {
  if (!is.null(rates)) plain_table(answering = c("straight lines with slips", "at random"), share = unname(rates))
}

# Bounds of two indices that careful people of this survey would hardly pass: list(page_variance, even_odd), NA where none were drawn.
careful_bounds <- function(survey, items, careful, pages) {
  at <- lapply(pages, function(page) match(intersect(items[page], careful$items), careful$items))
  at <- at[lengths(at) > 1]
  if (is.null(careful$values) || length(at) == 0) {
    return(list(page_variance = NA_real_, even_odd = NA_real_))
  }
  spread <- core_page_variance(careful$values, at, page_widths(survey, careful$items))
  keyed <- keyed_answers(careful$values, keying_of(survey, careful$items))
  list(page_variance = if (mean(spread == 0, na.rm = TRUE) <= .01) stats::quantile(spread, .005, names = FALSE, na.rm = TRUE) else NA_real_,
    even_odd = if (length(at) >= 3) stats::quantile(core_even_odd(keyed, at), .02, na.rm = TRUE, names = FALSE) else NA_real_)
}

# Correlations behind the answers as given: polychoric up to 40 items, Pearson above; NULL where there are none.
latent_correlations <- function(survey, items) {
  keying <- keying_of(survey, items)
  found <- if (length(items) <= 40) source_pairs(survey, items, FALSE) else list(status = "ok", r = core_correlation(source_moments(survey, items,
    "pairwise")$covariance))
  if (found$status != "ok" || anyNA(found$r)) {
    return(NULL)
  }
  r <- found$r * outer(keying$sign, keying$sign)
  if (core_definiteness(r) < 1e-6) core_smooth(r, 1e-4) else r
}

ridged <- function(covariance) covariance + diag(.05 * diag(covariance), ncol(covariance))

# People who left out the last items: a tenth of all, three at least.
broke_off <- function(values, count) values$left_at_end >= max(3, ceiling(count / 10))

# All items that people were shown, those set aside since too: the time is spent on these.
shown_items <- function(survey) {
  specs <- survey$codebook$items
  union(specs$item[specs$role != "aside"], specs$item[specs$role == "aside" & (!is.na(specs$scale) | !is.na(specs$lowest) | !is.na(specs$answer))])
}

seconds_spent <- function(survey, time) {
  if (is.null(time)) {
    return(NULL)
  }
  check_names_known(time, source_names(survey), "time", "column")
  pages <- source_columns(survey, time)
  text <- time[!vapply(pages, is.numeric, TRUE)]
  if (length(text) > 0) stop_input(message_of("e_time_must_numeric"), faults = quoted(text))
  rowSums(pages)
}

# Data frame of indices, a row per case in use; NA where an index has no value.
answering_indices <- function(survey, items, seconds, robust, pages) {
  specs <- item_spec(survey, items)
  scales <- lapply(survey_scales(survey), match, items)
  both <- Filter(function(columns) length(unique(specs$direction[columns])) == 2, scales)
  pick <- function(direction) lapply(both, function(columns) columns[specs$direction[columns] == direction])
  plan <- list(
    likert = which(is.na(specs$answer)), pages = pages, widths = page_widths(survey, items), halves = scales[lengths(scales) >= 2],
    forward = pick("forward"), reversed = pick("reversed"),
    width = vapply(both, function(columns) max(specs$highest[columns] - specs$lowest[columns]), 0), keying = keying_of(survey, items)
  )
  parts <- source_by_rows(survey, items, function(given, cells) {
    cbind(unanswered = rowMeans(unanswered_of(survey, given, cells)), row_indices(given, plan))
  }, keyed = FALSE, beside = intersect(items, test_items(survey)))
  values <- as.data.frame(do.call(rbind, parts))
  values$distance_p <- distance_p(survey, items, values$page_variance %in% 0, robust)
  values$seconds_per_item <- if (is.null(seconds)) NA_real_ else seconds / length(shown_items(survey))
  for (count in c("longest_run", "left_at_end")) values[[count]] <- as.integer(values[[count]])
  last <- c("distance_p", "seconds_per_item", "left_at_end")
  structure(values[c(setdiff(names(values), last), last)], subscales = length(plan$halves))
}

# Indices of some people, from their answers as given: a matrix. plan: columns of `given` for each of them.
row_indices <- function(given, plan) {
  keyed <- keyed_answers(given, plan$keying)
  none <- rep(NA_real_, nrow(given))
  likert <- if (length(plan$likert) > 2) given[, plan$likert, drop = FALSE]
  cbind(
    page_variance = if (length(plan$pages) > 0) core_page_variance(given, plan$pages, plan$widths) else none,
    longest_run = if (is.null(likert)) none else core_longest_run(likert),
    person_sd = if (is.null(likert)) none else core_row_sd(likert),
    even_odd = if (length(plan$halves) >= 3) core_even_odd(keyed, plan$halves) else none,
    contradiction = if (length(plan$width) > 0) core_contradiction(keyed, plan$forward, plan$reversed, plan$width) else none,
    left_at_end = core_left_at_end(given)
  )
}

# Given answers with those to reversed items turned.
keyed_answers <- function(given, keying) {
  for (j in which(keying$sign < 0)) given[, j] <- keying$shift[j] - given[, j]
  given
}

# How each index is judged: its bound, and how many subscales even-odd needs.
answering_rules <- function(items, limits, bounds) {
  run <- ceiling(limit(limits, "longest_run_share")$bound * length(items))
  by_limit <- c("unanswered", "person_sd", "contradiction", "distance_p", "seconds_per_item")
  given <- lapply(stats::setNames(by_limit, by_limit), function(figure) function(x) !meets(x, limits, figure))
  own <- list(page_variance = function(x) falls_below(x, bounds$page_variance), longest_run = function(x) x > run,
    even_odd = function(x) falls_below(x, bounds$even_odd))
  c(given, own)[c("unanswered", "page_variance", "longest_run", "person_sd", "even_odd", "contradiction", "distance_p", "seconds_per_item")]
}

falls_below <- function(value, bound) !on_good_side(value, bound, "at_least")

answering_flags <- function(values, items, limits, careful, bounds) {
  rules <- answering_rules(items, limits, bounds)
  flags <- vapply(names(rules), function(name) {
    flag <- rules[[name]](values[[name]])
    !is.na(flag) & flag
  }, logical(nrow(values)))
  flags <- matrix(flags, nrow(values), dimnames = list(NULL, names(rules)))
  # Who broke off has unanswered items for another reason.
  flags[broke_off(values, length(items)), "unanswered"] <- FALSE
  cbind(straight_p = careful$straight, random_p = careful$random, flags)
}

index_table <- function(flags, values, items, limits, careful, bounds) {
  figure <- c(longest_run = "longest_run_share")
  name <- colnames(flags)
  in_limits <- ifelse(name %in% names(figure), figure[name], name)
  of_careful <- unlist(bounds)
  bound <- ifelse(name %in% names(of_careful), ifelse(is.na(of_careful[name]), "cannot be told", paste("\u2265", coefficient_text(of_careful[name]))),
    bound_only_or_none(limits, in_limits))
  words <- ifelse(name == "page_variance", "variance within pages", limits$words[match(in_limits, limits$figure)])
  source <- c(page_variance = "0.5% of simulated careful people", even_odd = "2% of simulated careful people; no vote")
  named <- name %in% c("straight_p", "random_p")
  bound[named] <- if (is.null(careful$edge)) "cannot be told" else paste("\u2264", format(signif(careful$edge, 2), scientific = FALSE))
  words[named] <- c("p of a straight line", "p of answers at random")
  source[c("straight_p", "random_p")] <- "Benjamini & Hochberg (1995)"
  bound[name == "longest_run"] <- paste0("\u2264 ", ceiling(limit(limits, "longest_run_share")$bound * length(items)))
  there <- vapply(values[name], function(x) sum(!is.na(x)), 1L)
  plain_table(
    index = words, bound = unname(bound), n = unname(there),
    flagged = ifelse(there == 0, NA_integer_, as.integer(colSums(flags))), source = unname(ifelse(name %in% names(source), source[name],
      limits$source[match(in_limits, limits$figure)]))
  )[there > 0, ]
}

answering_cases <- function(survey, values, flags, counted) {
  out <- c(as.list(values), list(flagged = rowSums(flags), by = flag_words(flags, ", "), counted = counted))
  out <- add_identifier(survey, frame_of(out[!vapply(out, function(x) all(is.na(x)), TRUE)], nrow(flags)))
  rows_of(out, order(-out$counted, -out$flagged))
}

# People to look at, by each index that flags them.
answering_verdicts <- function(survey, values, flags, flagged, limits, careful) {
  at <- which(flags & flagged, arr.ind = TRUE)
  index <- colnames(flags)[at[, 2]]
  figure <- c(longest_run = "longest_run_share", straight_p = "careless_p", random_p = "careless_p")[index]
  figure <- unname(ifelse(is.na(figure), index, figure))
  value <- as.matrix(values[colnames(flags)])[at]
  name <- rows_of(add_identifier(survey, list2DF(nrow = nrow(flags))), at[, 1])
  name <- do.call(paste, unname(as.list(name)))
  items <- length(analysed_items(survey))
  judged <- judge(ifelse(index == "longest_run", value / items, value), limits, figure)
  judged$bound[index %in% c("straight_p", "random_p")] <- careful$edge
  judged$code <- rep("missed", nrow(judged))
  ranked_verdicts(verdict_rows("person", name, judged))
}

flag_words <- function(flags, joint) {
  header <- column_header(colnames(flags))
  # Sets of flags are few, people may be many.
  set <- as.vector(flags %*% 2^(seq_along(header) - 1))
  first <- which(!duplicated(set))
  words <- vapply(first, function(row) paste(header[flags[row, ]], collapse = joint), "")
  words[match(set, set[first])]
}

flags_together <- function(flags) {
  sets <- flag_words(flags, " and ")
  counts <- sort(table(sets[sets != ""]), decreasing = TRUE)
  plain_table(by = as.character(names(counts)), cases = as.integer(counts))
}

# Alpha of each subscale over everyone, and over all but the flagged.
alpha_without_cases <- function(survey, flagged) {
  scales <- survey_scales(survey)
  if (length(scales) == 0) {
    return(plain_table(scale = character(), n = integer(), alpha = numeric(), alpha_flagged = numeric(), change = numeric()))
  }
  rest <- leave_out_cases(survey, which(flagged))
  alphas <- function(s) {
    if (source_count(s)$used == 0) {
      return(rep(NA_real_, length(scales)))
    }
    vapply(scale_moments(s, "auto"), function(m) core_alpha(m$covariance), 0)
  }
  all <- alphas(survey)
  without <- alphas(rest)
  plain_table(scale = names(scales), alpha = unname(all), alpha_flagged = unname(without), change = unname(without - all))
}

# CFI and RMSEA of the codebook's structure, and the number of factors, of everyone and of all but the flagged; NULL where
# neither can be had.
fit_without_cases <- function(survey, flagged, seed) {
  known <- function(code) tryCatch(code, scalewort_error = function(e) NULL)
  fit_of <- function(s, ...) if (length(survey_scales(s)) > 0) known(quick_confirmation(s, ...))
  figures <- function(s, fit) {
    number <- known(decided_factors(s, replicates = 100, seed = seed))
    c(cfi = if (is.null(fit)) NA_real_ else fit$parts$figures$cfi, rmsea = if (is.null(fit)) NA_real_ else fit$parts$figures$rmsea,
      factors = if (is.null(number)) NA_real_ else number)
  }
  fit <- fit_of(survey)
  rest <- leave_out_cases(survey, which(flagged))
  all <- figures(survey, fit)
  # Only fits by one estimator compare.
  without <- figures(rest, if (!is.null(fit)) fit_of(rest, fit$about$options$estimator))
  out <- plain_table(figure = names(all), everyone = unname(all), without = unname(without))
  out <- out[!is.na(out$everyone) | !is.na(out$without), ]
  if (nrow(out) == 0) NULL else out
}

answering_notes <- function(survey, values, flags, flagged, at_least, items, robust, careful) {
  seen <- careful$rates
  c(
    if (any(flagged)) note("look_at_cases", message_of(if (is.null(at_least)) "look_at_cases" else "look_at_cases_flagged", cases = sum(flagged),
      flags = at_least), cases = sum(flagged)),
    if (!is.null(careful$judged)) note("careless_untold", message_of("careless_untold", why = message_of(paste0("careless_", careful$judged)))),
    if (!is.null(seen) && seen[["random"]] < .8) note("weak_against_random", message_of("weak_against_random", share = seen[["random"]]),
      share = seen[["random"]]),
    if (!is.null(seen) && seen[["straight"]] < .8) note("weak_against_straight", message_of("weak_against_straight", share = seen[["straight"]]),
      share = seen[["straight"]]),
    if (all(is.na(values$contradiction))) note("no_contradiction", message_of("no_contradiction"), rank = 3L),
    if (all(is.na(values$distance_p))) note("no_distance", message_of("no_distance"), rank = 3L),
    if (robust) note("robust_distance", message_of("robust_distance"), rank = 3L)
  )
}

# "91%"
format_share <- function(x) paste0(round(100 * x), "%")
