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
  element <- if (settings$language %in% names(list)) list[[settings$language]] else list$element
  numbers$table <- numbers$table + 1
  missing <- sum(where == "")
  columns <- list(said_in(unname(checklist_sources[list$source]), words), element, ifelse(where == "", words$checklist$missing, where))
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
  words <- settings$words
  known <- if (!is.null(survey)) described_people(survey)
  tables <- Filter(function(b) b$kind == "table", blocks)
  of_class <- function(class) Filter(function(x) inherits(x, class), analyses)
  for (one in strsplit(rule, "|", fixed = TRUE)[[1]]) {
    kind <- sub(":.*$", "", one)
    name <- sub("^[^:]*:", "", one)
    at <- switch(kind,
      table = {
        hit <- Filter(function(b) identical(b$caption, translated(name, words$captions)), tables)
        if (length(hit) > 0) paste(words$table, hit[[1]]$number)
      },
      figure = {
        hit <- Filter(function(b) b$kind == "figure" && startsWith(b$name, sub("^sw_", "", name)), blocks)
        if (length(hit) > 0) paste(words$figure, hit[[1]]$number)
      },
      class = if (length(of_class(name)) > 0) translated(of_class(name)[[1]]$about$title, words$titles),
      front = if (!is.null(known)) words$front$measured, dates = if (!is.null(known$dates)) words$front$measured,
      demography = if (!is.null(known) && (!is.null(known$age) || !is.null(known$born)) && (!is.null(known$sex) || any(grepl(
        "sex|gender|geschlecht", tolower(names(known$groups)))))) words$front$measured,
      wording = if (length(settings$wordings) > 0) words$items, record = if (!is.null(survey)) words$record, versions = words$versions,
      plan = if (!is.null(settings$plan)) words$plan, halves = if (!is.null(settings$halves)) words$sections$confirmation,
      one_factor = if (any(vapply(of_class("sw_exploration"), function(x) ncol(x$parts$pattern) == 1, TRUE))) words$checklist$one_factor,
      retest = if (any(vapply(of_class("sw_scores"), function(x) !is.null(x$tables$retest), TRUE))) translated("Subscale scores", words$titles)
    )
    if (!is.null(at)) return(at)
  }
  ""
}
