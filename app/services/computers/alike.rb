# frozen_string_literal: true

# Computers that may be the one that somebody is about to register.
class Alike
  MOST = 5
  # Names shorter than that are one letter away from too many.
  SHORTEST = 4

  # @param given [Hash] name, identity, serial
  # @param but [Integer, nil] id of the one that is being changed
  def initialize(given, but: nil)
    @name = given['name'].to_s.strip
    @identity = given['identity'].to_s.strip
    @serial = given['serial'].to_s.strip
    @all = Computer.where.not(id: but || 0)
  end

  # @return [Array<(Computer, String)>] each with the reason, the surest first
  def list
    [of(:system_identity, @identity, 'the same system identity'), of(:serial, @serial, 'the same serial number'),
     of(:name, @name, 'the same name'), near].flatten(1).uniq(&:first).first(MOST)
  end

  private

  def of(field, value, why) = value.empty? ? [] : @all.where(field => value).limit(MOST).map { |one| [one, why] }

  def near
    return [] if @name.length < SHORTEST

    wanted = @name.downcase
    lengths = (wanted.length - 1)..(wanted.length + 1)
    ids = @all.where('CHAR_LENGTH(name) BETWEEN ? AND ?', lengths.min, lengths.max).pluck(:id, :name)
              .select { |_, name| DidYouMean::Levenshtein.distance(name.downcase, wanted) == 1 }.map(&:first)
    Computer.where(id: ids).order(:name).limit(MOST).map { |one| [one, 'a name one letter away'] }
  end
end
