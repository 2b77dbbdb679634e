# Forms of scores: z, T, percentiles and others, against norms.

check_form <- function(form) {
  if (is.null(form)) {
    return(list())
  }
  if (is.numeric(form)) {
    fine <- length(form) == 2 && (setequal(names(form), c("mean", "sd")) || setequal(names(form), c("slope", "intercept")))
    if (!fine || anyNA(form)) stop_input(message_of("e_form_numbers_c"))
    return(list(scaled = form))
  }
  form <- check_choices(form, option_choices("score", "form"), "form")
  stats::setNames(as.list(form), form)
}

form_name <- function(form) if (length(form) == 0) NULL else names(form)

# list(words, table: score, mean, sd, reliability; values: list of reference scores by score, or
# NULL); `table` has a row for each base score.
score_norms <- function(norms, survey, found) {
  base <- found$about[found$about$score == found$about$base, ]
  values <- lapply(found$columns[base$score], as.vector)
  if (is.null(norms)) {
    return(norms_of(values, base, message_of("norms_of_everyone"), survey_weight(survey, rep(TRUE, source_count(survey)$used))))
  }
  if (is.list(norms) && !is.data.frame(norms)) {
    if (is.null(names(norms))) stop_input(message_of("e_norms_group_list"))
    check_names_known(names(norms), source_names(survey), "norms", "column")
    rows <- Reduce(`&`, lapply(names(norms), function(column) source_column(survey, column) %in% norms[[column]]))
    if (sum(rows) < 2) stop_input(message_of("e_group_norms_come"))
    said <- message_of("norms_of_group", cases = sum(rows), groups = messages_of("column_is", column = names(norms), values = unname(norms)))
    return(norms_of(lapply(values, `[`, rows), base, said, survey_weight(survey, rows)))
  }
  norms_from_table(norms, base)
}

norms_of <- function(values, base, said, weight = NULL) {
  centres <- lapply(values, weighted_centre, weight)
  sds <- vapply(centres, `[[`, 0, "sd")
  list(
    said = said, words = say(said), values = values, weight = weight,
    table = data.frame(score = base$score, mean = vapply(centres, `[[`, 0, "mean"), sd = sds, reliability = base$reliability, sem = base$sem)
  )
}

norms_from_table <- function(norms, base) {
  said <- message_of("norms_of_table")
  if (is.character(norms)) {
    said <- message_of("norms_in_file", file = basename(norms[1]))
    norms <- read_table(norms[1])$data
  }
  if (!is.data.frame(norms) || !all(c("score", "mean", "sd") %in% names(norms))) {
    stop_input(message_of("e_table_norms_columns"))
  }
  row <- match(base$score, norms$score)
  if (anyNA(row)) {
    stop_input(message_of("e_table_norms_lacks"), faults = base$score[is.na(row)], hint = message_of("e_said_six", score = norms$score))
  }
  mean <- as.numeric(norms$mean[row])
  sd <- as.numeric(norms$sd[row])
  if (anyNA(mean) || anyNA(sd) || any(sd <= 0)) stop_input(message_of("e_means_standard_deviations"))
  reliability <- if ("reliability" %in% names(norms)) as.numeric(norms$reliability[row]) else base$reliability
  list(said = said, words = say(said), values = NULL, table = data.frame(score = base$score, mean = mean, sd = sd, reliability = reliability,
    sem = sd * sqrt(pmax(1 - reliability, 0))))
}

# The columns of forms and intervals beside each score.
add_forms <- function(found, form, norms, interval, level) {
  base <- found$about
  width <- core_normal_edge(level)
  columns <- list()
  about <- NULL
  for (i in seq_len(nrow(base))) {
    at <- match(base$score[i], norms$table$score)
    # Where norms bring a reliability, errors are those of the norms' people.
    base[i, c("reliability", "sem")] <- norms$table[at, c("reliability", "sem")]
    value <- found$columns[[base$score[i]]]
    made_of <- attr(value, "made_of")
    shown <- c(list(value), lapply(form, function(one) formed(one, as.vector(value), norms, at)))
    names(shown) <- c(base$score[i], paste(base$score[i], names(form), sep = "_", recycle0 = TRUE))
    for (k in seq_along(shown)) {
      name <- names(shown)[k]
      row <- base[i, ]
      if (k > 1) {
        row$score <- name
        row$form <- names(form)[k - 1]
        row$sem <- formed_error(form[[k - 1]], norms, at)
        row$recipe <- form_words(form[[k - 1]], base$score[i], norms, at)
      }
      columns[[name]] <- structure(as.vector(shown[[k]]), made_of = made_of)
      about <- rbind(about, row)
      if (interval) {
        ends <- interval_of(shown[[k]], as.vector(value), if (k > 1) form[[k - 1]], base$sem[i], norms, at, width)
        columns[[paste0(name, "_low")]] <- structure(ends$low, made_of = made_of)
        columns[[paste0(name, "_high")]] <- structure(ends$high, made_of = made_of)
      }
    }
  }
  rest <- setdiff(names(found$columns), base$score)
  found$columns <- c(columns, found$columns[rest])
  found$about <- about
  found
}

# The score in its form.
formed <- function(one, value, norms, at) {
  if (is.numeric(one) && "slope" %in% names(one)) {
    return(one[["intercept"]] + one[["slope"]] * value)
  }
  z <- (value - norms$table$mean[at]) / norms$table$sd[at]
  if (is.numeric(one)) {
    return(one[["mean"]] + one[["sd"]] * z)
  }
  percentile <- if (is.null(norms$values)) 100 * stats::pnorm(z) else core_percentile_rank(value, norms$values[[at]],
    if (is.null(norms$weight)) rep(1, length(norms$values[[at]])) else norms$weight)
  switch(one, z = z, t = 50 + 10 * z, percentile = percentile, stanine = core_stanine(percentile))
}

# The interval of measurement of the raw score, taken into the form.
interval_of <- function(shown, value, one, sem, norms, at, width) {
  if (is.na(sem)) {
    return(list(low = rep(NA_real_, length(value)), high = rep(NA_real_, length(value))))
  }
  ends <- list(low = value - width * sem, high = value + width * sem)
  if (is.null(one)) ends else lapply(ends, function(end) formed(one, end, norms, at))
}

formed_error <- function(one, norms, at) {
  sem <- norms$table$sem[at]
  if (is.numeric(one)) {
    return(if ("slope" %in% names(one)) abs(one[["slope"]]) * sem else one[["sd"]] * sem / norms$table$sd[at])
  }
  switch(one, z = sem / norms$table$sd[at], t = 10 * sem / norms$table$sd[at], NA_real_)
}

form_words <- function(one, score, norms, at) {
  mean <- formatC(norms$table$mean[at], format = "f", digits = 3)
  sd <- formatC(norms$table$sd[at], format = "f", digits = 3)
  z <- paste0("(", score, " - ", mean, ") / ", sd)
  if (is.numeric(one)) {
    return(if ("slope" %in% names(one)) paste0(one[["intercept"]], " + ", one[["slope"]], " x ", score) else
      paste0(one[["mean"]], " + ", one[["sd"]], " x ", z))
  }
  switch(one,
    z = z, t = paste("50 + 10 x", z), percentile = paste("percentage below", score, "plus half of those at it"),
    stanine = paste("1 to 9 from the percentile of", score)
  )
}

#' @rdname sw_demo
#' @export
sw_demo_norms <- function() {
  tell_former(message_of("former_name", old = "sw_demo_norms()", new = "sw_demo(\"norms\")"))
  sw_demo("norms")
}
