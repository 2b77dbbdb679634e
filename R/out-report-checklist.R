# What standards of reporting ask for, each element with where it stands in the report, or that it is missing.

checklist_sources <- c(
  JARS = "Reporting standards for quantitative research (Appelbaum et al., 2018)", EFA = "Practices of exploratory factor analysis (Howard, 2016)",
  SEM = "Reporting of confirmatory factor analysis (Jackson, Gillaspy & Purc-Stephenson, 2009)",
  COSMIN = "Checklist of measurement properties (Mokkink et al., 2010)"
)

checklist_blocks <- function(blocks, analyses, survey, settings, numbers) {
  words <- settings$words
  list <- utils::read.csv(report_file("checklist.csv"), colClasses = "character", encoding = "UTF-8")
  where <- vapply(list$where, function(rule) place_of(rule, blocks, analyses, survey, settings), "")
  element <- vapply(list$element, word_of, "", ".checklist", language = settings$language)
  numbers$table <- numbers$table + 1
  missing <- sum(where == "")
  columns <- list(vapply(unname(checklist_sources[list$source]), term_of, "", words = words_of_language(words$language)), element,
    ifelse(where == "", words$checklist$missing, where))
  # A source is named once, where its elements begin.
  columns[[1]][duplicated(list$source)] <- ""
  names(columns) <- unlist(words$checklist[c("source", "element", "where")])
  c(
    report_block("heading", level = 2, text = words$checklist$title),
    report_block("paragraph", text = fill_in(words$checklist$about, missing = missing, all = nrow(list)), class = ""),
    report_block("table", columns = columns, numeric = rep(FALSE, 3), rows = nrow(list), caption = words$checklist$title, number = numbers$table,
      note = "", part = "long")
  )
}

# Where the first of several alternatives stands; "" for none.
place_of <- function(rule, blocks, analyses, survey, settings) {
  for (one in strsplit(rule, "|", fixed = TRUE)[[1]]) {
    kind <- sub(":.*$", "", one)
    name <- sub("^[^:]*:", "", one)
    at <- if (kind %in% c("table", "figure", "class")) place_in_blocks(kind, name, blocks, analyses, settings$words) else
      place_of_kind(kind, analyses, survey, settings)
    if (!is.null(at)) return(at)
  }
  ""
}

# A table by its caption, the figure or the section of a class of results.
place_in_blocks <- function(kind, name, blocks, analyses, words) {
  hit <- switch(kind,
    table = Filter(function(b) b$kind == "table" && identical(b$caption, caption_words(name)), blocks),
    figure = Filter(function(b) b$kind == "figure" && startsWith(b$name, sub("^sw_", "", name)), blocks),
    class = Filter(function(x) inherits(x, name), analyses)
  )
  if (length(hit) == 0) {
    return(NULL)
  }
  switch(kind, table = paste(words$table, hit[[1]]$number), figure = paste(words$figure, hit[[1]]$number),
    class = say(hit[[1]]$about$title))
}

# What is in the report, or is not, by other signs.
place_of_kind <- function(kind, analyses, survey, settings) {
  words <- settings$words
  known <- if (!is.null(survey)) described_people(survey)
  sexed <- !is.null(known$sex) || any(c("sex", "gender", "geschlecht") %in% tolower(names(known$groups)))
  any_of <- function(class, has) any(vapply(analyses, function(x) inherits(x, class) && has(x), TRUE))
  found <- switch(kind,
    front = !is.null(known), dates = !is.null(known$dates), demography = sexed && (!is.null(known$age) || !is.null(known$born)),
    wording = length(settings$wordings) > 0, record = !is.null(survey), versions = TRUE, plan = !is.null(settings$plan),
    halves = !is.null(settings$halves), one_factor = any_of("sw_exploration", function(x) ncol(x$parts$pattern) == 1),
    retest = any_of("sw_scores", function(x) !is.null(x$tables$retest)), never = FALSE
  )
  if (found) switch(kind, wording = words$items, record = words$record, versions = words$versions, plan = words$plan,
    halves = words$sections$confirmation, one_factor = words$checklist$one_factor, retest = worded("title_scores"),
    words$front$measured)
}
