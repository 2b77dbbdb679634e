# Sentences and figures that said what is not so, each held against the data or the table that it speaks of.

biased <- function(n, weaker, seed) {
  withr::with_seed(seed, {
    group <- rep(c("a", "b"), each = n)
    f <- rnorm(2 * n)
    loading <- function(j) ifelse(group == "b" & j == 1, weaker, c(.68, .6, .7, .55, .65, .6, .7, .5)[j])
    x <- sapply(1:8, function(j) loading(j) * f + sqrt(1 - loading(j)^2) * rnorm(2 * n))
  })
  data <- as.data.frame(apply(x, 2, function(v) as.integer(cut(v, c(-Inf, -1.3, -.4, .4, 1.3, Inf)))))
  names(data) <- paste0("i", 1:8)
  sw_survey(cbind(data, group = group), data.frame(item = names(data), scale = "s", lowest = 1, highest = 5), id = NULL)
}

test_that("an item that separates people less in one group is named, and none is where all are alike", {
  found <- lapply(1:8, function(i) sw_dif(biased(300, .2, i), by = "group"))
  named <- vapply(found, function(x) x$tables$items$bias_kind[1] == "nonuniform" && !any(x$tables$items$flagged[-1]), TRUE)
  expect_gte(sum(named), 7)
  expect_match(format(found[[which(named)[1]]])[1], "1 of 8 items works differently by group: i1 \\(separates people less in \"b\"\\)")
  items <- found[[1]]$tables$items
  expect_equal(c(items$p_adjusted, items$p_nonuniform_adjusted), p.adjust(c(items$p.value, items$p_nonuniform), "holm"))
  expect_true("dif_slope" %in% found[[1]]$tables$verdicts$figure)
  alike <- lapply(11:18, function(i) sw_dif(biased(300, .68, i), by = "group")$tables$items)
  expect_lte(sum(vapply(alike, function(x) any(x$bias_kind %in% c("nonuniform", "both")), TRUE)), 1)
  # The ratio by another road: slopes of two groups' own proportional odds, here of two options, where these are logistic regressions.
  y <- as.integer(biased(300, .2, 1)$data$i1 > 3)
  score <- rowSums(biased(300, .2, 1)$data[2:8])
  group <- rep(c("a", "b"), each = 300)
  own <- vapply(c("a", "b"), function(g) coef(glm(y ~ score, binomial, subset = group == g))[["score"]], 0)
  of <- core("core_logistic_dif")(y, group, score)
  expect_equal(of$slope_ratio, min(own) / max(own), tolerance = 1e-4)
  expect_equal(of$flattest, "b")
})

test_that("the figure of invariance has a look for each state of the table, and its title counts them", {
  steps <- data.frame(verdict = c("between", "met", "near", "missed", "untested", "untested"), why = c("ground", "", "", "", "before", "not_usable"))
  expect_equal(core("step_states")(steps), c("holds", "holds", "open", "does not hold", "not tested", "not tested"))
  expect_equal(core("steps_title")(steps), "1 step does not hold, 1 step is open, 2 steps are not tested")
  expect_equal(core("steps_title")(data.frame(verdict = "met", why = "in_part")), "Every step holds, some in part")
  figure <- autoplot(sw_invariance(sw_demo("plotholders"), by = "district", missing = "listwise"))
  points <- ggplot2::layer_data(figure, 4)
  expect_equal(points$shape[points$PANEL == 1], c(16, 16, 21, 4))
})

test_that("figures of loadings and residuals say what the intervals say", {
  expect_equal(core("bound_states")(c("met", "near", "missed", "between", NA), "below it"),
    c("reaches it", "open", "below it", "reaches it", "not judged"))
  title <- function(...) core("loadings_title")(factor(c(...), c("reaches it", "open", "below it", "not judged")), .4)
  expect_equal(title("reaches it"), "Every loading reaches .40")
  expect_equal(title("open", "below it", "open"), "1 loading stays below .40, 2 leave .40 open")
  fit <- sw_confirm(withr::with_seed(2, sw_simulate(sw_structure(f = paste0("i", 1:6)), 60, loading = .5)), sw_structure(f = paste0("i", 1:6)),
    estimator = "ml")
  # Indices as they are judged, one look a state.
  indices <- fit$tables$fit[fit$tables$fit$figure != "chi_square", ]
  points <- ggplot2::layer_data(autoplot(fit, "fit"), 4)
  expect_equal(points$x, indices$corrected)
  expect_equal(points$shape, unname(c(met = 16, between = 16, near = 10, missed = 21)[indices$verdict]))
  expect_gt(length(unique(points$shape)), 1)
  changes <- utils::head(fit$tables$modifications, 20)
  expect_equal(ggplot2::layer_data(autoplot(fit, "modifications"), 2)$fill != "white", changes$reading_code == "matters")
  drawn <- ggplot2::layer_data(autoplot(fit, "loadings"), 4)
  expect_equal(sum(drawn$shape == 10), sum(fit$tables$loadings$verdict %in% "near"))
  expect_match(autoplot(fit, "residuals")$labels$title, if (any(fit$tables$residual_correlations$verdict %in% "missed")) "beyond chance" else
    "No correlation is missed by more than .10 beyond chance")
})

test_that("bars of scores are as wide as the scores that are possible, and labels do not lie on each other", {
  bars <- core("score_bars")(data.frame(score = "s", value = c(1, 1.2, 1.25, 1.4, 3)), .2, 1)
  expect_equal(bars$middle, seq(1, 3, .2))
  expect_equal(bars$n, c(1, 2, 1, 0, 0, 0, 0, 0, 0, 0, 1))
  many <- core("score_bars")(data.frame(score = "s", value = 0:119), 1, 0)
  expect_equal(sum(many$n), 120)
  expect_true(all(many$n[-nrow(many)] == many$n[1]))
  y <- core("apart_labels")(c(0, 0, 0, 5), c(1, 1.01, 1.02, 1), 1, .1)
  expect_true(all(dist(y[1:3]) >= .0999))
  expect_equal(y[4], 1)
})

test_that("who left an item out is told by who did", {
  structure <- sw_structure(sw_explore(sw_demo("plotholders"), 4))
  user <- core("amended_structure")(structure, list(list(what = "leave", items = list("soil5"), reason = "about another year"),
    list(what = "leave", items = list("kin5"))), sw_demo("plotholders"))
  said <- paste(core("left_out_sentences")(user), collapse = " ")
  expect_match(said, "Left out, since no loading was clear: calm6.", fixed = TRUE)
  expect_match(said, "Left out by decision (about another year): soil5.", fixed = TRUE)
  expect_match(said, "Left out by decision (no reason given): kin5.", fixed = TRUE)
  expect_true(any(grepl("about another year", sw_confirm(sw_demo("plotholders"), user)$notes)))
})

test_that("columns of another range are named first and left out, and a stray item is not said to be unreversed", {
  bag <- function(seed) {
    withr::with_seed(seed, {
      f <- rnorm(150)
      x <- as.data.frame(sapply(1:5, function(i) pmin(pmax(round(3 + f + rnorm(150)), 1), 5)))
      x$age <- sample(18:70, 150, TRUE)
      x[c("noise", "stray")] <- replicate(2, sample(1:5, 150, TRUE))
    })
    x
  }
  cores <- 0
  for (seed in 1:12) {
    found <- sw_reliability(bag(seed))
    expect_match(found$noted$words[which.min(found$noted$rank)], "^Of another range, and left out unless named in `items`: age \\(")
    expect_false("age" %in% tidy(found, "items")$item)
    expect_equal(c(tidy(found)$looks_unreversed, tidy(sw_keying(bag(seed)))$disagree), c("", ""))
    cores <- cores + ("core" %in% found$noted$code)
  }
  expect_gte(cores, 10)
  x <- bag(1)
  named <- sw_reliability(x, items = c("V1", "V2", "V3", "age"))
  expect_true("age" %in% tidy(named, "items")$item)
  expect_false("other_range" %in% named$noted$code)
  wide <- core("of_another_range")
  expect_equal(wide(list(c(1, 6), c(1, 7), c(2, 7), c(1, 6)), rep(FALSE, 4)), rep(FALSE, 4))
  expect_equal(wide(list(c(1, 5), c(1, 5), c(2, 5), c(0, 1)), rep(FALSE, 4)), c(FALSE, FALSE, FALSE, TRUE))
})

test_that("people of several waves are no strangers, and an item is released by its name", {
  survey <- sw_demo("plotholders", wave = 1:2)
  by <- sw_invariance(survey, by = "wave", steps = "scalar", missing = "listwise")
  expect_equal(tidy(by), tidy(sw_invariance(survey, across = "wave", steps = "scalar", missing = "listwise")))
  expect_equal(by$about$options$across, "wave")
  one <- sw_demo("plotholders")
  named <- sw_invariance(one, by = "district", steps = "scalar", release = "soil5", missing = "listwise")
  listed <- sw_invariance(one, by = "district", steps = "scalar", release = list(loading = "soil5", intercept = "soil5"), missing = "listwise")
  expect_equal(tidy(named), tidy(listed))
  expect_error(sw_invariance(one, by = "district", release = "nobody"), class = "scalewort_error_structure")
})

test_that("labels without separators are read, the number right is what a test scores, HTMT of ordered answers has intervals", {
  labels <- core("parse_labels")
  expect_equal(labels("1=never 2=now and then 3 = always"), c(never = 1, `now and then` = 2, always = 3))
  expect_equal(labels("1=never, or hardly; 2=often"), c(`never, or hardly` = 1, often = 2))
  quiz <- sw_score(sw_demo("plantcare"))
  keyed <- core("source_rows")(sw_demo("plantcare"), core("scored_items")(sw_demo("plantcare")))
  expect_equal(quiz$tables$scores$plantcare_right, rowSums(keyed), ignore_attr = TRUE)
  expect_equal(unique(sw_band(quiz, pass = 9)$tables$bands$score), "plantcare_right")
  two <- sw_structure(f = paste0("i", 1:4), g = paste0("i", 5:8))
  ordered <- sw_simulate(two, 240, loading = .7, correlation = .5, categories = 4, seed = 4)
  valid <- sw_validity(sw_confirm(ordered, two, estimator = "ordinal"), replicates = 200)
  pair <- tidy(valid, "pairs")
  expect_true(pair$htmt_low < pair$htmt && pair$htmt < pair$htmt_high)
  expect_gt(pair$htmt_low, .2)
  expect_lt(pair$htmt_high, .8)
  expect_false("no_intervals" %in% valid$noted$code)
})

test_that("a plan's template says what happens anyway", {
  folder <- withr::local_tempdir()
  file.copy(system.file("extdata", "plantcare.csv", package = "scalewort"), folder)
  lines <- readLines(core("write_start")(file.path(folder, "plantcare.csv"))$paths[2])
  steps <- lines[seq(grep("^# Steps:", lines), grep("^# limits:", lines))]
  given <- sub("^#   ([a-z_]+): +([^ ]+) .*$", "\\1 \\2", grep("^#   [a-z_]+: ", steps, value = TRUE))
  expect_gt(length(given), 10)
  entries <- unlist(lapply(core("options_table")()$verbs, function(verb) lapply(verb$options, function(o) paste(o$name, format(o$default)))))
  expect_equal(setdiff(given, entries), character())
  # With every mark taken off it is still a plan.
  bare <- sub("^# +(dif|reliability|split|retention|exploration|confirmation|validity|scores):$", "\\1:", sub("^#   ", "  ", steps))
  bare <- bare[grepl("^(  )?[a-z_]+:", bare)]
  writeLines(c("data: plantcare.csv", "codebook: plantcare-codebook.csv", bare), file.path(folder, "whole.yml"))
  expect_silent(core("read_plan")(file.path(folder, "whole.yml")))
})

test_that("what ended in an error of R's is a result or says what is wrong", {
  set.seed(1)
  data <- as.data.frame(matrix(sample(1:5, 360, TRUE), 60))
  items <- names(data)
  data$g <- rep(c("a", "b"), 30)
  book <- data.frame(item = items, scale = "s", lowest = 1, highest = 5)
  seldom <- data
  seldom$V1[1:55] <- NA
  curves <- sw_option_curves(sw_survey(seldom, book, id = NULL), bands = 5, score = "rest")
  expect_no_warning(ggplot2::ggplot_build(autoplot(curves)))
  nobody <- data
  nobody$V1[nobody$g == "a"] <- NA
  nobody$V2[nobody$g == "b"] <- NA
  expect_s3_class(sw_dif(sw_survey(nobody, book, id = NULL, group = "g")), "sw_dif")
  nobody[items[1:3]] <- NA_real_
  book$scale <- rep(c("s", "t"), each = 3)
  drawn <- ggplot2::ggplot_build(autoplot(sw_score(sw_survey(nobody, book, id = NULL))))
  expect_equal(as.character(drawn$layout$layout$score), "t_mean")
  three <- sw_structure(a = paste0("a", 1:3), b = paste0("b", 1:3), c = paste0("c", 1:3))
  expect_error(sw_simulate(three, 50, correlation = -.9), "No 3 factors can all correlate", class = "scalewort_error_input")
  later <- sw_demo("plotholders")$data[1:80, ]
  calm <- grep("calm", names(later), value = TRUE)
  for (item in calm) later[[item]] <- pmin(later[[item]], 4)
  twice <- rbind(cbind(later[c("id", calm)], w = 1), cbind(id = later$id, later[calm] + 1, w = 2))
  change <- sw_score(sw_survey(twice, data.frame(item = calm, scale = "calm", lowest = 1, highest = 5), id = "id", wave = "w"))
  expect_true(is.na(change$tables$retest$change_p))
  expect_output(kept <- summary(sw_reliability(sw_demo("plotholders"))), NA)
  expect_output(print(kept), "For a methods section")
  expect_equal(core("read_yaml")(withr::local_tempfile(lines = c("a: 0,5", "b: 010", "c: 1:30", "d: 0.5"), fileext = ".yml"), "plan")$content,
    list(a = "0,5", b = 10L, c = "1:30", d = .5))
  bomb <- c("a: &a [x]", paste0("b: [", paste(rep("*a", 101), collapse = ", "), "]"))
  expect_error(core("read_yaml")(withr::local_tempfile(lines = bomb, fileext = ".yml"), "plan"), "aliases", class = "scalewort_error_file")
  expect_error(core("known_draws")(matrix(c(1, NaN, NaN, NaN), 4)), class = "scalewort_error_numeric")
})

test_that("in pilots without anything wrong nothing is looked at first; what is wrong is still seen", {
  pilot <- function(seed, n = 60, factors = 1) {
    loadings <- if (factors == 1) matrix(.65, 6) else kronecker(diag(2), matrix(.65, 4))
    rownames(loadings) <- paste0("i", seq_len(nrow(loadings)))
    x <- simulate_answers(n, loadings, if (factors == 1) diag(1) else matrix(c(1, .3, .3, 1), 2), seed = seed)
    x[] <- findInterval(x, c(-1.3, -.4, .4, 1.3)) + 1
    as.data.frame(x)
  }
  said <- vapply(1:20, function(i) {
    c(grepl("^Look first", format(sw_factorability(pilot(i)))[1]), "several_factors" %in% sw_reliability(pilot(i))$noted$code,
      any(tidy(sw_screen(pilot(i)), "flags")$what %in% c("floor", "ceiling")))
  }, logical(3))
  expect_true(all(rowMeans(said) <= .1))
  seen <- vapply(1:10, function(i) "several_factors" %in% sw_reliability(pilot(i, 150, 2))$noted$code, TRUE)
  expect_gte(sum(seen), 9)
  quiz <- sw_validity(sw_confirm(sw_demo("plantcare")))
  expect_equal(tidy(quiz, "factors")$verdict_ave, "untested")
  expect_false(any(grepl("not available", sentences_of(sw_confirm(sw_demo("plantcare"), missing = "listwise")))))
  expect_equal(core("all_said")(core("known_figures")(CFI = NA, TLI = .9, RMSEA = .05, low = .01, high = .09, SRMR = NA)),
    c("TLI = .900", "RMSEA = .050, 90% CI [.010, .090]"))
})

test_that("each cell of the front page says what the verdicts say, of ten made surveys", {
  words <- core("report_words")("en")
  said <- words$front
  two <- sw_structure(f = paste0("i", 1:5), g = paste0("i", 6:10))
  for (i in 1:10) {
    survey <- sw_simulate(two, c(60, 150, 400)[i %% 3 + 1], loading = c(.45, .7)[i %% 2 + 1], correlation = .4, missing = if (i > 7) .1 else 0,
      seed = i)
    one <- sw_structure(all = paste0("i", 1:10))
    fit <- if (i %in% c(3, 6)) sw_confirm(survey, one) else sw_confirm(survey)
    analyses <- list(sw_reliability(survey), fit, sw_score(survey))
    table <- core("front_subscales")(analyses, words)
    judged <- fit$tables$fit[fit$tables$fit$figure %in% c("cfi", "rmsea", "srmr"), ]
    missed <- fit$tables$residual_correlations
    missed <- missed[missed$verdict %in% "missed", ]
    reliable <- tidy(analyses[[1]])
    for (k in 1:2) {
      cell <- table$fit[k]
      own <- paste0("i", 5 * (k - 1) + 1:5)
      bad <- any(missed$item %in% own & missed$with %in% own)
      at <- paste("survey", i, table[[1]][k], cell, table$`what to do`[k])
      # Tested, whatever its factor is called.
      if (fit$about$status == "ok") expect_false(cell == said$not_tested, info = at)
      expect_equal(startsWith(cell, "misses"), bad && fit$about$status == "ok", info = at)
      if (cell == said$fits) expect_true(all(judged$verdict %in% c("met", "between")), info = at)
      if (cell == said$fit_whole) expect_true("missed" %in% judged$verdict, info = at)
      todo <- table$`what to do`[k]
      expect_equal(todo == said$todo_use, cell %in% c(said$fits, said$not_tested) && reliable$verdict[k] %in% c("met", "between") &&
        !any(tidy(analyses[[1]], "items")$verdict[5 * (k - 1) + 1:5] %in% "missed"), info = at)
      expect_lte(lengths(regmatches(todo, gregexpr("usable", todo))), 1)
    }
    counted <- core("say")(core("people_counted")(analyses))
    if (fit$about$missing == "pairwise") expect_match(counted, "in the confirmation each correlation rests on those who answered both")
    if (any(analyses[[3]]$tables$scales$without > 0) && nzchar(counted)) expect_match(counted,
      "Scores need enough answers: [0-9 to]+ of [0-9]+ have one")
    expect_false(grepl("from screening to scores", counted))
  }
})
