#' Bands of scores: low to high, a median split, a pass mark
#'
#' Cuts scores into bands and adds them to the data as ordered factors `<score>_band`.
#'
#' Bands throw information away: two people on either side of a cut may differ by less than a
#' score's error, two in the same band by much more. A median split is the worst of them
#' (MacCallum, Zhang, Preacher & Rucker, 2002), and is said to be one. Bands of equal size by
#' `groups` keep ties together: a value's band is set by the share of people below it plus half of
#' those at it.
#'
#' @param scores A result of [sw_score()].
#' @param cuts Cut points, lowest values of the bands above, in the units of the score: numbers where
#'   there is one score, or a list of numbers by score.
#' @param groups In place of `cuts`: how many bands of equal size; 2 is a median split.
#' @param pass In place of both: the lowest score that passes, in the units of the score: one number
#'   where there is one score (for a test, the number right), or named by score, forms too:
#'   `c(calm_mean = 3)`, `c(calm_mean_t = 60)`.
#' @param labels Names of the bands, lowest first.
#' @param of Which scores; for `groups` all by default, else those that `cuts` or `pass` name.
#' @param overwrite Replace columns of the data that have a band's name?
#' @return The `sw_scores` with the bands added to the data and the table `bands` (score, band, lowest,
#'   highest, n, share), and for a pass mark `consistency`: the share of equal decisions on an equivalent
#'   form, kappa, and accuracy against the true score (Peng & Subkoviak, 1980).
#' @section Errors: `scalewort_error_input` for none or several of `cuts`, `groups`, `pass`, unknown
#'   scores, or cuts that leave a band impossible.
#' @examples
#' sw_score(sw_demo("plotholders")) |> sw_band(groups = 3)
#' sw_score(sw_demo("plantcare"), "right") |> sw_band(pass = 9)
#' @export
sw_band <- function(scores, cuts = NULL, groups = NULL, pass = NULL, labels = NULL, of = NULL, overwrite = FALSE) {
  check_class(scores, "sw_scores", "scores", "`sw_score()`")
  if (sum(!is.null(cuts), !is.null(groups), !is.null(pass)) != 1) stop_input(message_of("e_say_one_cuts"))
  check_options("band")
  about <- scores$parts$found$about
  marks <- if (is.null(pass)) cuts else pass
  of <- banded_scores(of, marks, about, if (is.null(pass)) "cuts" else "pass")
  for (name in if (!is.null(marks)) of) check_marks(own_marks(marks, name), name, possible_range(scores, name))
  if (!is.null(scores$parts$asked)) {
    if (!is.null(groups)) stop_input(message_of("e_bands_equal_size"), hint = message_of("e_give_cuts_percentile"))
    return(asked_bands(scores, of, marks, labels, !is.null(pass)))
  }
  check_free_columns(paste0(of, "_band"), c(source_names(survey_behind(scores)), names(scores$parts$found$columns), paste0(names(scores$parts$bands),
    "_band", recycle0 = TRUE)),
    overwrite)
  places <- lapply(of, function(name) {
    value <- as.vector(scores$parts$found$columns[[name]])
    if (!is.null(groups)) group_bands(value, groups) else cut_bands(value, name, if (is.null(pass)) cuts else pass)
  })
  names(places) <- of
  counts <- vapply(places, `[[`, 0, "count")
  words <- lapply(counts, band_labels, labels = labels, pass = !is.null(pass))
  for (name in of) scores$parts$bands[[name]] <- factor(words[[name]][places[[name]]$band], levels = words[[name]], ordered = TRUE)
  scores$tables$bands <- do.call(rbind, lapply(of, function(name) band_table(name, scores, places[[name]], words[[name]])))
  scores$tables$consistency <- if (!is.null(pass)) consistency_table(scores, of, pass)
  with_notes(scores, band_notes(scores, of, places, groups, pass), first = TRUE)
}

# Which scores are cut. A mark is in the units of one score: plain numbers are for the one score there
# is (the number right, where that is among them), named ones for those named.
banded_scores <- function(of, marks, about, arg) {
  if (!is.null(of)) {
    check_names_known(of, about$score, "of", "score")
    return(of)
  }
  base <- about$score[about$score == about$base]
  if (is.null(marks)) {
    return(about$score[!about$form %in% c("percentile", "stanine")])
  }
  if (!is.null(names(marks))) {
    return(check_names_known(names(marks), about$score, arg, "score"))
  }
  right <- about$score[about$score == about$base & about$method == "right"]
  if (length(right) == 1) base <- right
  if (length(base) > 1) {
    stop_input(message_of("e_units_one_score", arg = arg, base = length(base), base_too = base), hint = message_of("e_name_score_give", arg = arg,
      arg_said = if (arg == "cuts") "list" else "c", base = base[1]))
  }
  base
}

own_marks <- function(marks, name) if (is.list(marks) || !is.null(names(marks))) unlist(marks[[name]]) else marks

# A mark beyond the scores that can be is a mistake.
check_marks <- function(marks, name, range) {
  if (!is.numeric(marks)) {
    return(invisible())
  }
  outside <- marks[!is.na(marks) & (marks < range$least - 1e-9 | marks > range$most + 1e-9)]
  if (length(outside) > 0) {
    stop_input(message_of("e_no_possible_score", outside = format_answer(outside[1]), name = name, least = format_answer(range$least),
      most = format_answer(range$most)), hint = message_of("e_mark_units_score"))
  }
}

# list(band: 1, 2, ...; count).
group_bands <- function(value, groups) {
  list(band = core_bands(value, groups), count = groups)
}

cut_bands <- function(value, name, cuts) {
  own <- own_marks(cuts, name)
  if (!is.numeric(own) || length(own) == 0 || anyNA(own) || is.unsorted(own, strictly = TRUE)) {
    stop_input(message_of("e_cuts_must_numbers", name = name), hint = message_of("e_give_numbers_list"))
  }
  list(band = findInterval(value, own) + 1L, count = length(own) + 1L)
}

band_labels <- function(count, labels, pass) {
  if (!is.null(labels)) {
    if (!is.character(labels) || length(labels) != count || anyDuplicated(labels)) {
      stop_input(message_of("e_labels_must_different", count = count))
    }
    return(labels)
  }
  if (pass) {
    return(c("fail", "pass"))
  }
  switch(as.character(count), `2` = c("low", "high"), `3` = c("low", "middle", "high"), paste("band", seq_len(count)))
}

band_table <- function(name, scores, place, labels) {
  value <- as.vector(scores$parts$found$columns[[name]])
  of <- function(k, f) if (any(place$band %in% k)) f(value[place$band %in% k]) else NA_real_
  k <- seq_along(labels)
  n <- vapply(k, function(i) sum(place$band %in% i), 0L)
  plain_table(score = name, band = labels, lowest = vapply(k, of, 0, f = min), highest = vapply(k, of, 0, f = max), n = n,
    share = if (sum(n) > 0) n / sum(n) else NA_real_)
}

# Least and highest possible score, and the step between, of a score or a linear form of one; unknown
# (infinite, 0) elsewhere.
possible_range <- function(scores, name) {
  found <- scores$parts$found
  row <- found$about[match(name, found$about$score), ]
  if (name == row$base) {
    return(as.list(row[c("least", "most", "step")]))
  }
  ends <- tryCatch(linear_form(found, row), error = function(e) NULL)
  if (is.null(ends)) list(least = -Inf, most = Inf, step = 0) else
    list(least = min(ends$at(c(row$least, row$most))), most = max(ends$at(c(row$least, row$most))), step = abs(ends$slope) * row$step)
}

# A form as a straight line of its score, from the data themselves: list(at, slope); NULL where it is
# none (percentiles, stanines).
linear_form <- function(found, row) {
  if (row$form %in% c("percentile", "stanine")) {
    return(NULL)
  }
  raw <- as.vector(found$columns[[row$base]])
  shown <- as.vector(found$columns[[row$score]])
  two <- c(which.min(raw), which.max(raw))
  slope <- diff(shown[two]) / diff(raw[two])
  if (!is.finite(slope)) {
    return(NULL)
  }
  list(at = function(x) shown[two[1]] + slope * (x - raw[two[1]]), slope = slope)
}

consistency_table <- function(scores, of, pass) {
  table <- scores$tables$scales
  do.call(rbind, lapply(of, function(name) {
    row <- table[table$score == name, ]
    cut <- if (is.null(names(pass))) pass else pass[[name]]
    known <- !is.na(row$reliability) && isTRUE(row$sd > 0) && row$reliability > 0 && row$reliability < 1
    # Scores in steps pass from half a step below the lowest one that does.
    range <- possible_range(scores, name)
    lowest <- if (range$step > 0) range$least + ceiling((cut - range$least) / range$step - 1e-9) * range$step else cut
    unknown <- list(share = NA_real_, kappa = NA_real_, accuracy = NA_real_)
    found <- if (known) core_decision_consistency(lowest - range$step / 2, row$mean, row$sd, row$reliability) else unknown
    plain_table(score = name, pass = cut, reliability = row$reliability, consistency = found$share, kappa = found$kappa, accuracy = found$accuracy)
  }))
}

band_notes <- function(scores, of, places, groups, pass) {
  if (is.null(groups) || groups != 2) {
    if (is.null(pass)) {
      return(note("bands", message_of("bands_lose"), rank = 1L))
    }
    alone <- of[vapply(places[of], function(place) length(unique(stats::na.omit(place$band))) < 2, TRUE)]
    return(if (length(alone) > 0) note("pass_tells_nobody_apart", message_of("pass_tells_nobody_apart", scores = alone), alone, rank = 1L))
  }
  ties <- lapply(of, function(name) {
    value <- as.vector(scores$parts$found$columns[[name]])
    middle <- stats::median(value, na.rm = TRUE)
    at <- which(value == middle)
    if (length(at) == 0) message_of("at_the_median_nobody", score = name) else
      message_of(c("at_the_median_low", "at_the_median_high")[places[[name]]$band[at[1]]], score = name, people = length(at),
        value = round(middle, 2))
  })
  c(
    note("median_split", message_of("median_split"), rank = 1L),
    note("at_the_median", message_of("at_the_median", scores = ties), of, rank = 3L)
  )
}
