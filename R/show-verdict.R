# Verdicts in words: from the words of a language (.verdicts of inst/words/<language>.yml).

# A table's column of codes in words; its figures, limits and reasons stand in its attributes.
verdict_column <- function(table, column, said = NULL) {
  judged <- attr(table, "judged")
  of <- function(what, may_be_column = TRUE) {
    own <- what
    if (may_be_column && length(own) == 1 && own %in% names(table)) table[[own]] else if (is.null(own)) rep("",
      nrow(table)) else if (is.null(judged$by) || is.null(names(own))) rep_len(own, nrow(table)) else
      unname(own[table[[judged$by]]])
  }
  verdict_words(table[[column]], of(judged$columns[[column]], FALSE), of(judged$reason), of(judged$detail), attr(table, "limits"), said)
}

is_judged <- function(table, column) column %in% names(attr(table, "judged")$columns)

# Words of codes, from `said` (by code) where it has them; figure: their keys in the limits table, "step", "own_bound" or "exact_fit_p", which
# have words of their own.
verdict_words <- function(code, figure, reason = "", detail = "", limits = sw_limits(), said = NULL) {
  words <- words_of_language("en")$.verdicts
  unlist(Map(function(code, figure, reason, detail) {
    if (is.na(code)) {
      return("")
    }
    rule <- limit(limits, figure)
    key <- if (figure %in% c("step", "own_bound", "exact_fit_p")) paste(figure, code) else if (code == "missed") paste(code, rule$direction) else code
    with_reason <- trimws(paste(key, reason))
    if (with_reason %in% names(words)) key <- with_reason
    own <- said[[key]]
    filled_words(if (is.null(own)) words[[key]] else own, rule, detail)
  }, code, figure, reason, detail), use.names = FALSE)
}

filled_words <- function(text, rule, detail) {
  if (!is.na(rule$figure)) {
    strict <- if (is.na(rule$better)) rule$bound else rule$better
    text <- sub("{strict}", paste0(bound_sign(rule$direction), bound_text(strict)), text, fixed = TRUE)
    text <- sub("{bound}", bound_text(rule$bound), text, fixed = TRUE)
    text <- sub("{loose}", paste0(bound_sign(rule$direction), bound_text(rule$bound)), text, fixed = TRUE)
  }
  sub("{detail}", detail, text, fixed = TRUE)
}
