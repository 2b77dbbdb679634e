# What each decision changed: figures of the results before it and after it, kept beside the results for the next time.

# The figures that a decision is told by.
desk_figures <- function(have) {
  # As decided: the path turns by itself what looks unreversed, which would hide what a decision changed.
  scales <- if (is.null(have$keying)) have$reliability$tables$scales else have$keying$tables$scales
  fit <- if (believable(have)) have$confirmation$tables$fit
  of <- function(figure) fit$value[match(figure, fit$figure)]
  c(
    n = source_count(have$answers)$used,
    if (!is.null(scales)) stats::setNames(scales$alpha, paste("alpha", scales$scale)),
    if (!is.null(have$exploration)) c(factors = ncol(have$exploration$parts$pattern)),
    if (!is.null(fit)) c(`chi-square` = of("chi_square"), df = have$confirmation$parts$figures$df, CFI = of("cfi"), RMSEA = of("rmsea"),
      SRMR = of("srmr"))
  )
}

# Kept under the hash of the decisions that led there, as they are written; a reason changes nothing.
decisions_key <- function(decisions) {
  done <- lapply(decisions, function(d) d[names(d) != "reason"])
  hash_of(if (length(done) > 0) yaml::as.yaml(done) else "none")
}

read_effects <- function(folder) {
  file <- file.path(folder, "figures.json")
  read <- if (file.exists(file)) tryCatch(jsonlite::read_json(file, simplifyVector = FALSE), error = function(e) NULL)
  if (is.list(read)) lapply(read, function(one) unlist(one)) else list()
}

keep_figures <- function(folder, decisions, figures) {
  known <- lapply(read_effects(folder), as.list)
  known[[decisions_key(decisions)]] <- as.list(signif(figures, 10))
  write_safely(file.path(folder, "figures.json"), TRUE, function(draft) jsonlite::write_json(known, draft, auto_unbox = TRUE, digits = NA))
}

# The figures that no decision was waited for with: when the next one was taken before the work behind had ended. What is worked out for them is not
# kept in the place of what the plan says now.
tell_decisions <- function(path, folder, said) {
  raw <- read_plan(path, decided = FALSE)
  told <- read_effects(folder)
  for (i in rev(seq_along(raw$decisions)) - 1) {
    former <- utils::head(raw$decisions, i)
    if (!is.null(told[[decisions_key(former)]])) next
    said(worded("telling_effects"))
    plan <- decided_plan(replace(raw, "decisions", list(former)))
    survey <- planned_survey(plan, beside_plan(path))
    kept <- list(key = hash_of(list(path, former)), get = function(...) NULL, put = function(...) NULL)
    found <- run_steps(list(answers = survey), step_options(plan, beside_plan(path)), plan_common(plan), store = kept,
      only = c("keying", "exploration", "confirmation"), failed = failed_step)
    close_table(survey)
    figures <- desk_figures(found$have)
    keep_figures(folder, former, figures[is.finite(figures)])
  }
}

# Words of what changed from one set of figures to the next, "alpha kinship .305 -> .776"; "" where nothing or not known yet.
effect_words <- function(before, after) {
  if (is.null(before) || is.null(after)) {
    return("")
  }
  shared <- intersect(names(before), names(after))
  text <- function(name, x) if (name %in% c("n", "factors", "df")) format(x) else if (name == "chi-square") decimals(x, 1) else coefficient_text(x)
  changed <- shared[vapply(shared, function(name) text(name, before[[name]]) != text(name, after[[name]]), TRUE)]
  changed <- setdiff(changed, c("df", "chi-square"))
  paste(vapply(changed, function(name) paste0(name, " ", text(name, before[[name]]), " \u2192 ", text(name, after[[name]])), ""), collapse = ", ")
}

# One row a decision: what, why, what it changed.
decision_table <- function(raw, effects, words) {
  decisions <- raw$decisions
  figures <- lapply(0:length(decisions), function(i) effects[[decisions_key(if (i > 0) decisions[seq_len(i)])]])
  data.frame(
    what = vapply(decisions, decision_words, "", words = words), reason = vapply(decisions, function(d) as.character(d$reason), ""),
    effect = vapply(seq_along(decisions), function(i) effect_words(figures[[i]], figures[[i + 1]]), ""), stringsAsFactors = FALSE
  )
}

# A decision in the words of the page's language.
decision_words <- function(d, words) {
  kind <- if (d$do == "amend") d$name else d$do
  value <- if (is.null(d$value)) words$by_default else paste(unlist(d$value), collapse = ", ")
  names <- function(x, most) listed(as.character(unlist(x)), words_of_language(words$all$language), most)
  who <- if (length(d$items) > 0) names(d$items, 8) else paste(words$case, names(d$cases, 5))
  to <- if (is.null(d$to) || !nzchar(d$to)) words$no_subscale else d$to
  fill_in(words$decisions[[kind]], items = who, to = to, of = paste(unlist(d$of), collapse = ", "), value = value,
    name = sub("^: ", "", paste0(station_name(d$step, words), ": ", d$name)), step = station_name(d$step, words))
}

station_name <- function(step, words) {
  if (is.null(step)) {
    return("")
  }
  known <- words$stations[[step]]
  if (is.null(known)) step else known
}
