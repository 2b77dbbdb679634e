# Scores as expressions of a statement, for a table that stays in its database.

# The score of a recipe (see asked_recipe()) from items x1, x2, ... in the order of `items`; NULL for those who answered too few.
score_sql <- function(recipe, items) {
  x <- paste0("x", match(recipe$items, items))
  k <- length(x)
  answered <- paste0("(", paste0("CASE WHEN ", x, " IS NULL THEN 0 ELSE 1 END", collapse = " + "), ")")
  added <- function(weights) {
    paste0("(", paste0(ifelse(weights == 1, "", paste0(exact_number(weights), " * ")), "coalesce(", x, ", 0)", collapse = " + "), ")")
  }
  given <- function(weights) paste0("(", paste0("CASE WHEN ", x, " IS NULL THEN 0 ELSE ", exact_number(weights), " END", collapse = " + "), ")")
  mean <- if (recipe$by_share) mean_by_share(recipe, x, answered) else paste0("(1.0 * ", added(rep(1, k)), " / ", answered, ")")
  low <- exact_number(mean(recipe$low))
  value <- switch(recipe$method,
    mean = mean, sum = , right = paste0(k, " * ", mean),
    share = paste0("100.0 * (", mean, " - ", low, ") / ", exact_number(mean(recipe$high) - mean(recipe$low))),
    weighted = paste0("1.0 * ", added(recipe$weights), " / nullif(", given(recipe$weights), ", 0)")
  )
  paste0("CASE WHEN ", answered, " >= ", recipe$needed, " THEN ", value, " END")
}

# Items of different ranges: a gap counts as the person's share of its range.
mean_by_share <- function(recipe, x, answered) {
  low <- exact_number(recipe$low)
  width <- exact_number(recipe$high - recipe$low)
  share <- paste0("(", paste0("coalesce((", x, " - ", low, ") * 1.0 / ", width, ", 0)", collapse = " + "), ") / ", answered)
  paste0("((", paste0("coalesce(", x, ", ", low, " + ", share, " * ", width, ")", collapse = " + "), ") / ", length(x), ".0)")
}

# A form of a score that stands in column `value`; in_part: of people who are but a part of those that percentiles are among.
form_sql <- function(form, value, in_part = FALSE) {
  if (identical(form$form, "percentile") && in_part) {
    return(rank_sql(form, value))
  }
  if (identical(form$form, "percentile")) {
    below <- paste0("sum(w) OVER (ORDER BY ", value, " NULLS LAST) - 0.5 * sum(w) OVER (PARTITION BY ", value, ")")
    of <- paste0("sum(CASE WHEN ", value, " IS NOT NULL THEN w END) OVER ()")
    return(paste0("CASE WHEN ", value, " IS NOT NULL THEN (", below, ") * 100.0 / ", of, " END"))
  }
  z <- paste0("((", value, " - ", exact_number(form$mean), ") / ", exact_number(form$sd), ")")
  if (is.numeric(form$form)) {
    linear <- if ("slope" %in% names(form$form)) c(form$form[["intercept"]], form$form[["slope"]]) else unlist(form$form[c("mean", "sd")])
    return(paste0(exact_number(linear[1]), " + ", exact_number(linear[2]), " * ", if ("slope" %in% names(form$form)) value else z))
  }
  if (form$form == "t") paste0("50 + 10 * ", z) else z
}

# Percentiles by the scores there are, cut midway between each two.
rank_sql <- function(form, value) {
  values <- form$of$shape$values
  ranks <- exact_number(form$shape$values)
  k <- length(values)
  if (k == 0) {
    return(paste("0.0 *", value))
  }
  steps <- paste("WHEN", value, "<", exact_number((values[-1] + values[-k]) / 2), "THEN", ranks[-k], collapse = " ")
  paste("CASE WHEN", value, "IS NULL THEN NULL", if (k > 1) steps, "ELSE", ranks[k], "END")
}

# The names of bands, cut at these marks of an expression.
band_sql <- function(connection, value, cuts, labels) {
  words <- quoted_text(connection, labels)
  steps <- paste("WHEN", value, "<", exact_number(cuts), "THEN", words[seq_along(cuts)], collapse = " ")
  paste("CASE WHEN", value, "IS NULL THEN NULL", steps, "ELSE", words[length(words)], "END")
}

# SELECT ... FROM: base scores as s1, s2, ... with the columns that name the cases, and the weight of each as w.
base_scores_sql <- function(survey, connection, recipes, keys = character()) {
  items <- unique(unlist(lapply(recipes, `[[`, "items")))
  keying <- keying_of(survey, items)
  named <- c(if (length(keys) > 0) paste(quoted_names(connection, keys), "AS", paste0("k", seq_along(keys))),
    paste(if (is.null(survey$weight)) "1" else quoted_names(connection, survey$weight), "AS w"))
  answers <- apart_sql(survey, connection, items, keying, rep(0, length(items)), named)
  scores <- paste(vapply(recipes, score_sql, "", items), "AS", paste0("s", seq_along(recipes)))
  paste0("(SELECT ", paste(c(if (length(keys) > 0) paste0("k", seq_along(keys)), "w", scores), collapse = ", "), " FROM ", answers, ") AS b")
}

# How a score is distributed: list(n, without, mean, sd, lowest, highest, values, counts: of each score, ascending, own: the same by weights
# of mean one). Mean and sd are weighted.
score_shapes <- function(survey, recipe) {
  survey <- in_statements(survey)
  asked_before(survey, list("score", recipe[c("items", "method", "needed", "weights")], survey$weight), {
    parts <- do.call(rbind, from_shards(survey$source, function(connection) {
      paste0("SELECT s1 AS value, count(*) AS n, sum(w) AS weight FROM ", base_scores_sql(survey, connection, list(recipe)), " GROUP BY s1")
    }))
    n <- as.numeric(parts$n)
    seen <- !is.na(parts$value)
    value <- sort(unique(as.numeric(parts$value[seen])))
    at <- factor(match(as.numeric(parts$value[seen]), value), seq_along(value))
    count <- as.vector(tapply(n[seen], at, sum))
    total <- sum(count)
    own <- as.vector(tapply(as.numeric(parts$weight[seen]), at, sum))
    own <- own / sum(own) * total
    mean <- sum(value * own) / total
    ends <- if (total == 0) c(NA_real_, NA_real_) else range(value)
    list(n = total, without = sum(n[!seen]), mean = mean, sd = sqrt(sum(own * (value - mean)^2) / (total - 1)), lowest = ends[1],
      highest = ends[2], values = value, counts = count, own = own)
  })
}

# Correlations of scores of those who have both, by weight.
source_score_r <- function(survey, recipes) {
  survey <- in_statements(survey)
  k <- length(recipes)
  at <- which(lower.tri(diag(k)), arr.ind = TRUE)
  centre <- vapply(recipes, function(one) exact_number(one$shape$mean), "")
  apart <- paste0("(s", seq_len(k), " - ", centre, ")")
  sums <- unlist(lapply(seq_len(nrow(at)), function(row) {
    a <- apart[at[row, 2]]
    b <- apart[at[row, 1]]
    both <- paste0("CASE WHEN s", at[row, 1], " IS NOT NULL AND s", at[row, 2], " IS NOT NULL THEN ")
    paste0("sum(", both, "w", c("", paste0(" * ", c(a, b, paste(a, "*", a), paste(b, "*", b), paste(a, "*", b)))), " END)")
  }))
  found <- in_one_state(survey$source$table, summed(survey, sums, function(connection) base_scores_sql(survey, connection, recipes),
    grouped = FALSE))
  found <- matrix(found, 6)
  n <- found[1, ]
  spread <- function(row, one, other) found[row, ] - found[one, ] * found[other, ] / n
  r <- diag(k)
  r[at] <- spread(6, 2, 3) / sqrt(spread(4, 2, 2) * spread(5, 3, 3))
  dimnames(r) <- rep(list(names(recipes)), 2)
  r
}

# A survey as statements can ask it: of chunks with everybody in use.
in_statements <- function(survey) {
  if (inherits(survey$source, "sums_source")) {
    return(survey)
  }
  if (!everyone_counts(survey)) {
    stop_database("memory", message_of("e_cases_were_set"), hint = message_of("e_set_them_aside_query"))
  }
  as_counted(survey)
}

# CREATE TABLE ... AS SELECT: identifier, scores and their forms; in_part: of the people on one shard of several.
write_asked_scores <- function(survey, asked, connection, name, in_part) {
  survey <- in_statements(survey)
  keys <- c(survey$id, survey$wave)
  if (is.null(keys)) stop_input(message_of("e_scores_need_say"), hint = message_of("e_name_column_sw_survey"))
  recipes <- Filter(function(one) is.null(one$of) && is.null(one$cuts), asked)
  place <- stats::setNames(paste0("s", seq_along(recipes)), names(recipes))
  shown <- function(one) if (is.null(one$of)) place[[one$score]] else form_sql(one, place[[one$of$score]], in_part)
  columns <- vapply(asked, function(one) if (is.null(one$cuts)) shown(one) else band_sql(connection, shown(one$cut), one$cuts, one$labels), "")
  tell(connection, paste0("CREATE TABLE ", name, " AS SELECT ", paste(c(paste(paste0("k", seq_along(keys)), "AS", quoted_names(connection, keys)),
    paste(columns, "AS", quoted_names(connection, names(asked)))), collapse = ", "), " FROM ",
    base_scores_sql(survey, connection, recipes, keys)))
}
