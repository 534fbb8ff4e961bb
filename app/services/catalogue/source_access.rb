# frozen_string_literal: true

# The way to what a source holds. For each kind of Restorable a class that is
# made with one, and answers:
#
#   ready     itself, when `open` needs no record any more
#   open      yields what the engine reads from: Evrel::Image::Native and its like
#   there?    whether it can be read at this moment
module SourceAccess
  KINDS = { 'Image' => 'ImageAccess', 'DriveSource' => 'DriveAccess' }.freeze

  module_function

  # @param source [Restorable]
  def open(source, &) = of(source).open(&)

  # As `open`, in a process of its own: what others made is read nowhere else.
  # @param source [Restorable]
  # @param limits [Hash] as Evrel::Apart.call
  # @yieldreturn [Object] what JSON can say
  # @return [Object] the same
  def apart(source, **limits, &block)
    access = of(source).ready
    Evrel::Apart.call(**limits) { access.open(&block) }
  end

  # @param source [Restorable]
  # @return [Boolean]
  def there?(source) = of(source).there?

  def of(source) = KINDS.fetch(source.class.name).constantize.new(source)
  private_class_method :of
end
