# Several rows of one person.

# The cases of the first wave, where a survey has waves.
first_wave <- function(survey) {
  if (is.null(survey$wave)) {
    return(survey)
  }
  wave <- as.character(survey$data[[survey$wave]])
  known <- unique(wave[survey$kept & !is.na(wave)])
  number <- suppressWarnings(as.numeric(known))
  first <- if (anyNA(number)) sort(known)[1] else known[which.min(number)]
  keep_cases(survey, survey$kept & wave %in% first)
}

# That some people stand in several rows, for a result that takes rows as independent.
repeated_note <- function(x) {
  if (!inherits(x, "sw_survey") || is.null(x$id)) {
    return(NULL)
  }
  person <- x$data[[x$id]][x$kept]
  several <- length(unique(person[duplicated(person)]))
  if (several > 0) {
    paste0(count_of(several, "person has", "people have"), " several rows, and rows of one person are not independent: errors and tests come out ",
      "too favourable. Keep one ", if (is.null(x$wave)) "row of each" else "wave", ": `sw_keep(survey, cases = ..., reason = ...)`.")
  }
}
