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

# Kept under the hash of the decisions that led there, as they are written.
decisions_key <- function(decisions) rlang::hash(if (length(decisions) > 0) yaml::as.yaml(decisions) else "none")

read_effects <- function(folder) {
  file <- file.path(folder, "figures.json")
  read <- if (file.exists(file)) tryCatch(jsonlite::read_json(file, simplifyVector = FALSE), error = function(e) NULL)
  if (is.list(read)) lapply(read, function(one) unlist(one)) else list()
}

keep_figures <- function(folder, decisions, figures) {
  known <- lapply(read_effects(folder), as.list)
  known[[decisions_key(decisions)]] <- as.list(signif(figures[is.finite(figures)], 10))
  write_safely(file.path(folder, "figures.json"), TRUE, function(draft) jsonlite::write_json(known, draft, auto_unbox = TRUE, digits = NA))
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
decision_table <- function(raw, effects) {
  decisions <- raw$decisions
  figures <- lapply(0:length(decisions), function(i) effects[[decisions_key(if (i > 0) decisions[seq_len(i)])]])
  data.frame(
    what = vapply(decisions, decision_words, ""), reason = vapply(decisions, function(d) as.character(d$reason), ""),
    effect = vapply(seq_along(decisions), function(i) effect_words(figures[[i]], figures[[i + 1]]), ""), stringsAsFactors = FALSE
  )
}

# A decision in words.
decision_words <- function(d) {
  items <- and_list(as.character(unlist(d$items)), 8)
  who <- and_list(as.character(unlist(d$cases)), 5)
  value <- if (is.null(d$value)) "as by default" else paste(unlist(d$value), collapse = ", ")
  switch(d$do,
    turn = paste0(items, " turned"), set_aside = paste0(if (nzchar(items)) items else paste("case", who), " set aside"),
    put_back = paste0(if (nzchar(items)) items else paste("case", who), " put back"),
    move = paste0(items, " moved to ", if (nzchar(d$to)) d$to else "no subscale"), keep = paste0(items, " kept"),
    set = paste0(if (!is.null(d$step)) paste0(d$step, ": "), d$name, " ", value), leave_out = paste0(d$step, " left out"),
    take_up = paste0(d$step, " taken up"), amend = amend_words(d, items)
  )
}

amend_words <- function(d, items) {
  switch(d$name,
    pair = paste0(items, " share something"), loading = paste0(items, " on ", d$to, ", too"), higher = paste0("factor above: ", d$to),
    general = paste0("general factor: ", d$to), wording = "factor of the reversed wording", leave = paste0(items, " left out of the structure"),
    shift = paste0(items, " to factor ", d$to), rename = paste0(unlist(d$of), " is called ", d$to)
  )
}
