import { ImageFamilies } from '@/features/image/image-families';
import { imageFamilies } from '@/server/services/family-view';

export default async function ImagesPage() {
  return <ImageFamilies families={await imageFamilies()} />;
}
