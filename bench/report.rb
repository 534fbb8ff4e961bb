# frozen_string_literal: true

require 'fileutils'
require 'json'

# Prints what was measured, and keeps it as JSON.
class Report
  FOLDER = File.expand_path('../docs/benchmarks', __dir__)

  # @param name [String] of the file
  # @param about [Hash] on what it was measured
  def initialize(name, **about)
    @name = name
    @about = about
  end

  # @param results [Hash{String=>Hash}] what → figures
  def give(results)
    results.each { |name, values| puts "#{name.ljust(44)} #{values.map { |key, value| "#{key.to_s.tr('_', ' ')} #{value}" }.join(', ')}" }
    FileUtils.mkdir_p(FOLDER)
    File.write(File.join(FOLDER, "#{@name}.json"), "#{JSON.pretty_generate({ **@about, medians: results })}\n")
  end
end
